const PORTS: Readonly<Record<string, { readonly speaks: string; readonly port: string }>> = {
  'ipp:': { speaks: 'http:', port: '631' },
  'ipps:': { speaks: 'https:', port: '631' },
  'http:': { speaks: 'http:', port: '' },
  'https:': { speaks: 'https:', port: '' },
};

/** Where a printer is asked, from what somebody keyed; null where that is no address of a printer.
 *  Source: RFC 3510: `ipp` is HTTP at port 631. */
export function printerUrl(address: string): string | null {
  const [, scheme = '', rest = ''] = /^([a-z]+:)\/\/(.+)$/i.exec(address.trim()) ?? [];
  const speaks = PORTS[scheme.toLowerCase()];
  if (!speaks || !URL.canParse(`${speaks.speaks}//${rest}`)) return null;
  const url = new URL(`${speaks.speaks}//${rest}`);
  if (url.username !== '' || url.password !== '' || url.hostname === '') return null;
  if (url.port === '' && speaks.port !== '') url.port = speaks.port;
  return url.href;
}
