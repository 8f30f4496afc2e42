// A simulated supplier: drops notices of what is on its way into a folder, as their program would, and shows what it dropped.
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { createServer, type IncomingMessage } from 'node:http';
import path from 'node:path';
import { writeAdvice, type SentAdvice } from './write-advice.ts';

const LARGEST = 20_000_000;
const folder = process.env['DOCKROW_NOTICES'] ?? 'notices';
const dropped: string[] = [];

async function read(req: IncomingMessage): Promise<string> {
  let text = '';
  for await (const chunk of req) {
    text += String(chunk);
    if (text.length > LARGEST) throw new Error('too large');
  }
  return text;
}

// What is still being written has another name: whoever looks into the folder never finds half a file.
function drop(name: string, text: string): void {
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, path.basename(name));
  writeFileSync(`${file}.part`, text);
  renameSync(`${file}.part`, file);
  dropped.unshift(path.basename(name));
}

const server = createServer((req, res) => {
  void (async () => {
    // What is on its way, as data; it is dropped as the standard's file.
    if (req.method === 'POST' && req.url === '/send') {
      const advice = JSON.parse(await read(req)) as SentAdvice;
      drop(`${advice.reference}.xml`, writeAdvice(advice));
      return void res.writeHead(204).end();
    }
    // Any text under any name: what a broken program would drop.
    if (req.method === 'POST' && req.url?.startsWith('/drop/')) {
      drop(decodeURIComponent(req.url.slice('/drop/'.length)), await read(req));
      return void res.writeHead(204).end();
    }
    const rows = dropped.map((name) => `<li>${name.replace(/[<>&]/g, '')}</li>`).join('');
    res.writeHead(200, { 'Content-Type': 'text/html; charset=utf-8' }).end(`<title>Simulated supplier</title><ul>${rows}</ul>`);
  })().catch(() => res.writeHead(400).end('not a notice'));
});
server.listen(Number(process.env['SUPPLIER_PORT'] ?? 4802), '127.0.0.1');
process.on('SIGTERM', () => process.exit(0));
