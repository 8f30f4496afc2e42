import { once } from 'node:events';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import sharp from 'sharp';
import {
  attribute,
  GROUPS,
  JOB_STATES,
  OPERATIONS,
  PRINTER_STATES,
  RASTER_TYPE,
  readIpp,
  STATUS,
  valuesOf,
  writeIpp,
  type IppGroup,
  type IppMessage,
} from '#core/printing';
import { Machine, type Job, type Strip } from './machine.ts';
import { isBlack, readRaster, type Page } from './raster.ts';

const LARGEST = 200_000_000;
type Machines = (name: string) => Machine;

/** What somebody may do to a printer. `after`: so many labels later. */
const DEEDS: Readonly<Record<string, (machine: Machine, after: number) => unknown>> = {
  jam: (m, after) => m.stop('media-jam-error', { after }),
  'run-out': (m, after) => m.stop('media-empty-error', { after }),
  open: (m) => m.stop('cover-open-error'),
  tear: (m, after) => m.stop('media-jam-error', { after, half: true }),
  mend: (m) => m.mend(),
  slow: (m) => (m.msPerLabel = 400),
  fast: (m) => (m.msPerLabel = 0),
  away: (m) => (m.manner = 'away'),
  mute: (m) => (m.manner = 'mute'),
  nonsense: (m) => (m.manner = 'nonsense'),
  'stop-button': (m) => m.press(),
  'off-and-on': (m) => m.forget(),
};

async function read(req: IncomingMessage): Promise<Buffer> {
  const parts: Buffer[] = [];
  let length = 0;
  for await (const part of req) {
    parts.push(part as Buffer);
    length += (part as Buffer).length;
    if (length > LARGEST) throw new Error('too large');
  }
  return Buffer.concat(parts);
}

const jobGroup = (machine: Machine, job: Job): IppGroup => ({
  group: GROUPS.job,
  attributes: [
    attribute('integer', 'job-id', job.id),
    attribute('name', 'job-name', job.name),
    attribute('enum', 'job-state', job.state),
    attribute('keyword', 'job-state-reasons', job.state === JOB_STATES.stopped ? (machine.trouble ?? 'none') : 'none'),
    attribute('integer', 'job-impressions-completed', job.out),
  ],
});

async function answer(machine: Machine, asked: IppMessage): Promise<{ code: number; groups: IppGroup[] }> {
  const [operation] = asked.groups;
  const job = (): Job | undefined => machine.jobs.find((j) => j.id === valuesOf(operation, 'job-id')[0]);
  const told = (found: Job | undefined): { code: number; groups: IppGroup[] } =>
    found ? { code: STATUS.ok, groups: [jobGroup(machine, found)] } : { code: STATUS.notFound, groups: [] };
  switch (asked.code) {
    case OPERATIONS.printJob: {
      if (valuesOf(operation, 'document-format')[0] !== RASTER_TYPE) return { code: STATUS.formatNotSupported, groups: [] };
      return told(await machine.take(String(valuesOf(operation, 'job-name')[0] ?? ''), readRaster(Buffer.from(asked.data))));
    }
    case OPERATIONS.jobAttributes:
      return told(job());
    case OPERATIONS.cancelJob:
      return told(machine.cancel(Number(valuesOf(operation, 'job-id')[0])));
    case OPERATIONS.jobs: {
      const isOver = valuesOf(operation, 'which-jobs')[0] === 'completed';
      const jobs = machine.jobs.filter((j) => j.state >= JOB_STATES.canceled === isOver);
      return { code: STATUS.ok, groups: jobs.map((j) => jobGroup(machine, j)) };
    }
    case OPERATIONS.printerAttributes:
      return {
        code: STATUS.ok,
        groups: [
          {
            group: GROUPS.printer,
            attributes: [
              attribute('enum', 'printer-state', machine.trouble === null ? PRINTER_STATES.idle : PRINTER_STATES.stopped),
              attribute('keyword', 'printer-state-reasons', machine.trouble ?? 'none'),
              attribute('integer', 'printer-up-time', machine.upSeconds),
              attribute('resolution', 'printer-resolution-default', 203),
            ],
          },
        ],
      };
    default:
      return { code: STATUS.badRequest, groups: [] };
  }
}

async function print(machine: Machine, req: IncomingMessage, res: ServerResponse): Promise<void> {
  const body = await read(req);
  if (machine.manner === 'away') return void req.socket.destroy();
  if (machine.manner === 'nonsense') return void res.writeHead(200, { 'Content-Type': 'application/ipp' }).end('<h1>It works!</h1>');
  const asked = readIpp(body);
  if (!asked.ok) return void res.writeHead(400).end();
  const { code, groups } = await answer(machine, asked.value);
  if (machine.manner === 'mute') return void req.socket.destroy();
  const charset = { group: GROUPS.operation, attributes: [attribute('charset', 'attributes-charset', 'utf-8')] };
  const bytes = writeIpp({ code, id: asked.value.id, groups: [charset, ...groups], data: new Uint8Array(0) });
  res.writeHead(200, { 'Content-Type': 'application/ipp' }).end(bytes);
}

function png(page: Page): Promise<Buffer> {
  const { width, height } = page;
  const grey = Buffer.alloc(width * height, 255);
  for (let y = 0; y < height; y += 1) for (let x = 0; x < width; x += 1) if (isBlack(page, x, y)) grey[y * width + x] = 0;
  return sharp(grey, { raw: { width, height, channels: 1 } })
    .png()
    .toBuffer();
}

const factsOf = ({ n, run, page, isHalf }: Strip): object => ({ n, run, isHalf, width: page.width, height: page.height, dpi: page.dpi });

// For whoever wants to see it: the strip at its own size, the newest first, and what can be done to the printer.
function html(name: string, machine: Machine): string {
  const labels = machine.strip
    .slice(-60)
    .toReversed()
    .map(({ n, page, isHalf }) => {
      const width = (page.width * 25.4) / page.dpi;
      const style = `width:${width}mm;border-radius:2mm`;
      return `<p>${n}${isHalf ? ', torn' : ''}</p><img src="/strip/${name}/${n}.png" style="${style}" alt="label ${n}">`;
    });
  const deeds = Object.keys(DEEDS).map((deed) => `<button formaction="/do/${name}/${deed}">${deed}</button>`);
  return (
    `<!doctype html><title>Simulated label printer ${name}</title><body style="background:#ddd;font-family:sans-serif">` +
    `<h1>${name}: ${machine.trouble ?? machine.manner}, ${machine.strip.length} labels</h1>` +
    `<form method="post">${deeds.join(' ')}</form>${labels.join('')}`
  );
}

async function serve(machineOf: Machines, req: IncomingMessage, res: ServerResponse): Promise<void> {
  const url = new URL(req.url ?? '/', 'http://printer');
  const [, part = '', name = '', what = ''] = url.pathname.split('/');
  const send = (type: string, body: string | Buffer): void => void res.writeHead(200, { 'Content-Type': type }).end(body);
  if (![part, name].every((word) => /^[a-z0-9-]{0,40}$/.test(word))) return void res.writeHead(404).end();
  if (part === 'ipp' && req.method === 'POST') return print(machineOf(name), req, res);
  if (part === 'do' && req.method === 'POST') {
    await DEEDS[what]?.(machineOf(name), Number(url.searchParams.get('after') ?? 0));
    return void res.writeHead(Object.hasOwn(DEEDS, what) ? 303 : 404, { Location: `/${name}` }).end();
  }
  if (part === 'strip' && what === '') return send('application/json', JSON.stringify(machineOf(name).strip.map(factsOf)));
  if (part === 'strip') {
    const label = machineOf(name).strip.find((s) => `${s.n}.png` === what);
    return label ? send('image/png', await png(label.page)) : void res.writeHead(404).end();
  }
  send('text/html; charset=utf-8', html(part || '1', machineOf(part || '1')));
}

/** Opens printers at a port of this machine; 0 takes any.
 *  Shape:  `machineOf` gives the printer behind `/ipp/NAME`, as somebody standing before it. */
export async function openPrinters(port: number): Promise<{ url: string; machineOf: Machines; close: () => Promise<void> }> {
  const machines = new Map<string, Machine>();
  const machineOf: Machines = (name) => {
    const machine = machines.get(name) ?? new Machine();
    machines.set(name, machine);
    return machine;
  };
  const server = createServer((req, res) => {
    void serve(machineOf, req, res).catch(() => (res.headersSent ? res.end() : res.writeHead(400).end('not a print job')));
  });
  server.listen(port, '127.0.0.1');
  await once(server, 'listening');
  const close = async (): Promise<void> => {
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  };
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, machineOf, close };
}
