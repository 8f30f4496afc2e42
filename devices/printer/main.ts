// Simulated label printers: they take jobs as printers do (IPP, PWG raster), one for each path, keep the strip that would have come out,
// dot by dot, and jam, run out, tear, dawdle, go away or talk nonsense when they are told to.
import { openPrinters } from './serve.ts';

await openPrinters(Number(process.env['PRINTER_PORT'] ?? 4801));
process.on('SIGTERM', () => process.exit(0));
