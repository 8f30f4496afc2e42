// A simulated sales channel: drops orders into a folder as a shop's program would, changes and cancels some, and shows what it dropped.
import { createServer } from 'node:http';
import { dropInto, readText } from '../dropping.ts';
import { dripFrom, type Catalogue } from './drip.ts';
import { writeOrder, type WantedOrder } from './write-order.ts';

const { drop, names: dropped } = dropInto(process.env['DOCKROW_ORDERS'] ?? 'orders');
let dripping: NodeJS.Timeout | undefined;
const send = (order: WantedOrder): void => drop(`${order.paper ?? order.reference}.xml`, writeOrder(order));

const server = createServer((req, res) => {
  void (async () => {
    // An order, a change or a cancellation, as data; it is dropped as the standard's file.
    if (req.method === 'POST' && req.url === '/send') {
      send(JSON.parse(await readText(req)) as WantedOrder);
      return void res.writeHead(204).end();
    }
    // Orders by chance out of a catalogue, one every so many milliseconds; 0 ends it.
    if (req.method === 'POST' && req.url === '/drip') {
      const asked = JSON.parse(await readText(req)) as Catalogue & { readonly every: number };
      clearInterval(dripping);
      const next = dripFrom(asked);
      if (asked.every > 0) dripping = setInterval(() => send(next()), asked.every);
      return void res.writeHead(204).end();
    }
    // Any text under any name: what a broken program would drop.
    if (req.method === 'POST' && req.url?.startsWith('/drop/')) {
      drop(decodeURIComponent(req.url.slice('/drop/'.length)), await readText(req));
      return void res.writeHead(204).end();
    }
    const rows = dropped.map((name) => `<li>${name.replace(/[<>&]/g, '')}</li>`).join('');
    res.writeHead(200, { 'Content-Type': 'text/html; charset=utf-8' }).end(`<title>Simulated sales channel</title><ul>${rows}</ul>`);
  })().catch(() => res.writeHead(400).end('not an order'));
});
server.listen(Number(process.env['CHANNEL_PORT'] ?? 4803), '127.0.0.1');
process.on('SIGTERM', () => process.exit(0));
