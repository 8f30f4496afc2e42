import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import path from 'node:path';

const LARGEST = 20_000_000;

/** The text that somebody sends to a device. Errors: throws where it is longer than 20 MB. */
export async function readText(req: IncomingMessage): Promise<string> {
  let text = '';
  for await (const chunk of req) {
    text += String(chunk);
    if (text.length > LARGEST) throw new Error('too large');
  }
  return text;
}

/** Drops files into a folder. What is still being written has another name: whoever looks into the folder never finds half a file.
 *  Shape:  `names`, the newest first. */
export function dropInto(folder: string): { drop(name: string, text: string): void; readonly names: readonly string[] } {
  const names: string[] = [];
  return {
    names,
    drop(name, text) {
      mkdirSync(folder, { recursive: true });
      const file = path.join(folder, path.basename(name));
      writeFileSync(`${file}.part`, text);
      renameSync(`${file}.part`, file);
      names.unshift(path.basename(name));
    },
  };
}
