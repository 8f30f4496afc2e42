// npm run demo: everything from a fresh machine to a running demo.
import { existsSync, rmSync, readdirSync, statSync } from 'node:fs';
import path from 'node:path';
import {
  debian,
  dockrowHome,
  ensureDebianPackages,
  ensureDisk,
  ensureNodeModules,
  freePort,
  giveUp,
  isPortFree,
  root,
  runOrGiveUp,
  startChild,
} from './machine.mjs';
import { lookAfter, startPostgres } from './postgres.mjs';

const fresh = process.argv.includes('--fresh');
const port = Number(process.env.PORT ?? 4800);
if (!Number.isInteger(port) || port < 1 || port > 65535) giveUp(`PORT is “${process.env.PORT}”; it must be a number from 1 to 65535.`);
if (!(await isPortFree(port))) giveUp(`port ${port} is taken by another program. Start with PORT=${port + 1} npm run demo.`);
ensureDisk(root, 800);
ensureDebianPackages(debian.postgresql);
ensureNodeModules();

const home = dockrowHome();
// The web's port is asked for, the others are whatever is free beside it.
const database = await startPostgres(home, { avoid: [port] });
const printerPort = await freePort(port + 1);
const supplierPort = await freePort(printerPort + 1);
const channelPort = await freePort(supplierPort + 1);
const env = {
  ...process.env,
  DATABASE_URL: database.url,
  DATABASE_OWNER_URL: database.ownerUrl,
  PORT: String(port),
  DOCKROW_DEMO: '1',
  DOCKROW_HOME: home,
  DOCKROW_PRINTER_URL: `http://127.0.0.1:${printerPort}`,
  PRINTER_PORT: String(printerPort),
  SUPPLIER_PORT: String(supplierPort),
  DOCKROW_NOTICES: path.join(home, 'notices'),
  CHANNEL_PORT: String(channelPort),
  DOCKROW_ORDERS: path.join(home, 'orders'),
};
let stopping = false;
const stopAll = () => {
  if (stopping) return;
  stopping = true;
  stopLooking();
  for (const child of children) child.kill('SIGTERM');
  if (database.startedHere) database.stop();
};
const children = [];
const stopLooking = lookAfter(database, (sentence) => console.log(sentence));
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    stopAll();
    process.exit(0);
  });
process.on('exit', stopAll);

const loaded = runOrGiveUp(
  'node',
  ['--import', 'tsx', 'demo/load.ts', ...(fresh ? ['--fresh'] : [])],
  'the demo data could not be loaded.',
  { env },
);
process.stdout.write(loaded);
if (needsBuild()) {
  console.log('Building …');
  rmSync(path.join(root, 'dist'), { recursive: true, force: true });
  runOrGiveUp('node', ['scripts/build.mjs'], 'the application could not be built.', { env });
}
for (const device of ['printer', 'supplier', 'channel'])
  children.push(startChild('node', ['--enable-source-maps', `dist/${device}.mjs`], { env }));
const server = startChild('node', ['--enable-source-maps', 'dist/server.mjs'], { env });
children.push(server);
server.on('exit', (code) => {
  stopAll();
  process.exit(code ?? 1);
});

function needsBuild() {
  const built = path.join(root, 'dist', 'server.mjs');
  if (!existsSync(built) || !existsSync(path.join(root, 'dist/web/index.html'))) return true;
  const since = statSync(built).mtimeMs;
  const newest = (folder) =>
    Math.max(
      0,
      ...readdirSync(path.join(root, folder), { recursive: true, withFileTypes: true })
        .filter((entry) => entry.isFile())
        .map((entry) => statSync(path.join(entry.parentPath ?? entry.path, entry.name)).mtimeMs),
    );
  return ['core', 'contract', 'server', 'web', 'devices'].some((folder) => newest(folder) > since);
}
