// Builds the web application and the server bundle into dist/.
import { build as buildServer } from 'esbuild';
import { build as buildWeb } from 'vite';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './machine.mjs';

export async function build() {
  await buildWeb({ root: path.join(root, 'web'), configFile: path.join(root, 'vite.config.ts'), logLevel: 'warn' });
  await buildServer({
    entryPoints: {
      server: path.join(root, 'server/main.ts'),
      jobs: path.join(root, 'server/jobs-main.ts'),
      printer: path.join(root, 'devices/printer/main.ts'),
    },
    outdir: path.join(root, 'dist'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
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
}

if (import.meta.url === pathToFileURL(process.argv[1]).href) await build();
