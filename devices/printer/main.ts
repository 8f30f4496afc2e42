// A simulated label printer: takes print jobs over HTTP, keeps the strip that would have come out, and shows it.
import { createServer, type IncomingMessage } from 'node:http';

const KEPT = 200;
const LARGEST = 4_000_000;
type Printed = { title: string; copies: number; svg: string };
const strip: Printed[] = [];
let outOfPaper = false;

async function read(req: IncomingMessage): Promise<string> {
  let text = '';
  for await (const chunk of req) {
    text += String(chunk);
    if (text.length > LARGEST) throw new Error('too large');
  }
  return text;
}

const server = createServer((req, res) => {
  void (async () => {
    if (req.method === 'POST' && req.url === '/print') {
      if (outOfPaper) return void res.writeHead(503).end('out of paper');
      strip.unshift(JSON.parse(await read(req)) as Printed);
      strip.length = Math.min(strip.length, KEPT);
      return void res.writeHead(204).end();
    }
    // Lets a test, or a person who wants to see the queue wait, take the paper out and put it back.
    if (req.method === 'POST' && (req.url === '/paper/out' || req.url === '/paper/in')) {
      outOfPaper = req.url === '/paper/out';
      return void res.writeHead(204).end();
    }
    if (req.url === '/strip.json') return void res.writeHead(200, { 'Content-Type': 'application/json' }).end(JSON.stringify(strip));
    res
      .writeHead(200, { 'Content-Type': 'text/html; charset=utf-8' })
      .end(
        `<title>Simulated label printer</title><body ` +
          `style="background:#ddd;font-family:sans-serif">${strip.map((s) => `<p>${s.copies} ×</p>${s.svg}`).join('')}</body>`,
      );
  })().catch(() => res.writeHead(400).end('not a print job'));
});
server.listen(Number(process.env['PRINTER_PORT'] ?? 4801), '127.0.0.1');
process.on('SIGTERM', () => process.exit(0));
