// npm run dev: the demo company with the web reloaded and the server restarted as files are saved.
import { context } from 'esbuild';
import { spawn } from 'node:child_process';
import path from 'node:path';
import {
  debian,
  dockrowHome,
  ensureDebianPackages,
  ensureNodeModules,
  freePort,
  giveUp,
  isPortFree,
  root,
  runOrGiveUp,
} from './machine.mjs';
import { PROGRAMS, programs } from './build.mjs';
import { startPostgres } from './postgres.mjs';

const port = Number(process.env.PORT ?? 4800);
if (!(await isPortFree(port))) giveUp(`port ${port} is taken by another program. Start with PORT=${port + 1} npm run dev.`);
ensureDebianPackages(debian.postgresql);
ensureNodeModules();
const home = dockrowHome();
const database = await startPostgres(home, { avoid: [port, port + 1] });
const apiPort = await freePort(port + 1);
const printerPort = await freePort(apiPort + 1);
const supplierPort = await freePort(printerPort + 1);
const channelPort = await freePort(supplierPort + 1);
const env = {
  ...process.env,
  DATABASE_URL: database.url,
  DATABASE_OWNER_URL: database.ownerUrl,
  PORT: String(apiPort),
  DOCKROW_DEMO: '1',
  DOCKROW_HOME: home,
  DOCKROW_PRINTER_URL: `http://127.0.0.1:${printerPort}`,
  PRINTER_PORT: String(printerPort),
  SUPPLIER_PORT: String(supplierPort),
  DOCKROW_NOTICES: path.join(home, 'notices'),
  CHANNEL_PORT: String(channelPort),
  DOCKROW_ORDERS: path.join(home, 'orders'),
};
process.stdout.write(runOrGiveUp('node', ['--import', 'tsx', 'demo/load.ts'], 'the demo data could not be loaded.', { env }));

const outdir = path.join(root, 'node_modules', '.cache', 'dock-row', 'dev');
const running = new Map();
const LAST_MS = 1000;
let stopping = false;

// A program that ends by itself stays down until the next save: what it said stands on the screen.
function restart(name) {
  const old = running.get(name);
  const start = () => {
    if (!stopping)
      running.set(name, spawn('node', ['--enable-source-maps', path.join(outdir, `${name}.mjs`)], { cwd: root, env, stdio: 'inherit' }));
  };
  if (!old || old.exitCode !== null || old.signalCode !== null) return start();
  old.once('exit', start);
  old.kill('SIGTERM');
  // It lets requests end, and an open page has one that never does.
  setTimeout(() => old.kill('SIGKILL'), LAST_MS).unref();
}

const options = programs(outdir, PROGRAMS);
const bundle = await context({
  ...options,
  plugins: [
    ...options.plugins,
    {
      name: 'restart',
      setup: (b) => b.onEnd(({ errors }) => errors.length === 0 && ['server', 'printer', 'supplier', 'channel'].forEach(restart)),
    },
  ],
});
await bundle.watch();

process.env.API_PORT = String(apiPort);
const { createServer } = await import('vite');
const web = await createServer({
  root: path.join(root, 'web'),
  configFile: path.join(root, 'vite.config.ts'),
  server: { port, strictPort: true },
});
await web.listen();
console.log(`Dock Row is under way at http://127.0.0.1:${port}; Ctrl-C ends it.`);

async function stop() {
  if (stopping) return;
  stopping = true;
  for (const child of running.values()) child.kill('SIGTERM');
  await Promise.all([web.close(), bundle.dispose()]);
  if (database.startedHere) database.stop();
  process.exit(0);
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop());
