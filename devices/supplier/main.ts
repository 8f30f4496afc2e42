// A simulated supplier: drops notices of what is on its way into a folder, as their program would, and shows what it dropped.
import { createServer } from 'node:http';
import { dropInto, readText } from '../dropping.ts';
import { writeAdvice, type SentAdvice } from './write-advice.ts';

const { drop, names: dropped } = dropInto(process.env['DOCKROW_NOTICES'] ?? 'notices');

const server = createServer((req, res) => {
  void (async () => {
    // What is on its way, as data; it is dropped as the standard's file.
    if (req.method === 'POST' && req.url === '/send') {
      const advice = JSON.parse(await readText(req)) as SentAdvice;
      drop(`${advice.reference}.xml`, writeAdvice(advice));
      return void res.writeHead(204).end();
    }
    // Any text under any name: what a broken program would drop.
    if (req.method === 'POST' && req.url?.startsWith('/drop/')) {
      drop(decodeURIComponent(req.url.slice('/drop/'.length)), await readText(req));
      return void res.writeHead(204).end();
    }
    const rows = dropped.map((name) => `<li>${name.replace(/[<>&]/g, '')}</li>`).join('');
    res.writeHead(200, { 'Content-Type': 'text/html; charset=utf-8' }).end(`<title>Simulated supplier</title><ul>${rows}</ul>`);
  })().catch(() => res.writeHead(400).end('not a notice'));
});
server.listen(Number(process.env['SUPPLIER_PORT'] ?? 4802), '127.0.0.1');
process.on('SIGTERM', () => process.exit(0));
