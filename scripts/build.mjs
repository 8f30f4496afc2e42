// Builds the web application and the server bundle into dist/.
import { build as buildServer } from 'esbuild';
import { readdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './machine.mjs';

export async function build() {
  const { build: buildWeb } = await import('vite');
  await buildWeb({ root: path.join(root, 'web'), configFile: path.join(root, 'vite.config.ts'), logLevel: 'warn' });
  const dist = path.join(root, 'dist');
  const { metafile } = await buildServer({ ...programs(dist, PROGRAMS), metafile: true });
  // What was split off before, and is no longer: only now, for a server may be at work.
  const made = new Set(Object.keys(metafile.outputs).map((file) => path.basename(file)));
  for (const name of readdirSync(dist)) if (name.startsWith('part-') && !made.has(name)) rmSync(path.join(dist, name));
}

/** The Node programs, and where each begins. */
export const PROGRAMS = {
  server: path.join(root, 'server/main.ts'),
  jobs: path.join(root, 'server/jobs-main.ts'),
  helper: path.join(root, 'server/helper-main.ts'),
  printer: path.join(root, 'devices/printer/main.ts'),
  supplier: path.join(root, 'devices/supplier/main.ts'),
  channel: path.join(root, 'devices/channel/main.ts'),
};

/** How Node programs are bundled into a folder. */
export const programs = (outdir, entryPoints) => ({
  entryPoints,
  outdir,
  outExtension: { '.js': '.mjs' },
  bundle: true,
  // What a program needs only now and then is read in then.
  splitting: true,
  chunkNames: 'part-[hash]',
  platform: 'node',
  format: 'esm',
  target: 'node20',
  sourcemap: true,
  // The project's own rooms (#core/…) are bundled; packages stay outside.
  plugins: [
    {
      name: 'packages-outside',
      setup: (b) => b.onResolve({ filter: /^[^.#/]/ }, (a) => (a.kind === 'entry-point' ? null : { path: a.path, external: true })),
    },
  ],
  logLevel: 'warning',
});

// `--helper FOLDER`: the helper alone, for tests.
if (import.meta.url === pathToFileURL(process.argv[1]).href)
  await (process.argv[2] === '--helper' ? buildServer(programs(process.argv[3], { helper: PROGRAMS.helper })) : build());
