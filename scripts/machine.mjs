// What the README commands need from the machine: Debian packages, node_modules, a clear sentence when something is in the way.
import { spawn, spawnSync } from 'node:child_process';
import { accessSync, constants, existsSync, mkdirSync, readFileSync, statfsSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { createServer } from 'node:net';
import path from 'node:path';

export const root = path.resolve(import.meta.dirname, '..');

/** Says one sentence and ends with a failure. */
export function giveUp(sentence) {
  console.error(`\nDock Row cannot go on: ${sentence}`);
  process.exit(1);
}

/** Runs a command; on failure gives up with the sentence and the last lines it printed. */
export function runOrGiveUp(command, args, sentence, options = {}) {
  const result = spawnSync(command, args, { cwd: root, encoding: 'utf8', ...options });
  if (result.status === 0) return result.stdout;
  const said = `${result.stdout ?? ''}${result.stderr ?? ''}${result.error ? result.error.message : ''}`
    .trim()
    .split('\n')
    .slice(-6)
    .join('\n');
  if (/No space left|ENOSPC/.test(said)) giveUp('the disk is full.');
  return giveUp(`${sentence}\n${said}`);
}

function which(name) {
  return spawnSync('sh', ['-c', `command -v ${name}`], { encoding: 'utf8' }).stdout.trim();
}

/** The folder of PostgreSQL's server programs, or null. */
export function postgresBin() {
  const listed = spawnSync('sh', ['-c', 'ls -d /usr/lib/postgresql/*/bin/postgres 2>/dev/null | sort -V | tail -1'], {
    encoding: 'utf8',
  }).stdout.trim();
  if (listed) return path.dirname(listed);
  const found = which('initdb');
  return found ? path.dirname(found) : null;
}

/** Installs Debian packages whose programs are missing.
 *  `wanted` maps a package to a check that it is there. */
export function ensureDebianPackages(wanted) {
  const missing = Object.entries(wanted)
    .filter(([, isThere]) => !isThere())
    .map(([name]) => name);
  if (missing.length === 0) return;
  const names = missing.join(', ');
  if (!which('apt-get')) giveUp(`these programs are missing: ${names}. Install them and start again.`);
  if (process.getuid() !== 0)
    giveUp(`${names} must be installed first, and this user has no right to. Run: sudo apt-get install ${missing.join(' ')}`);
  console.log(`Installing ${names} …`);
  // Keep Debian from making and starting a cluster of its own beside the private one.
  if (missing.includes('postgresql')) {
    mkdirSync('/etc/postgresql-common/createcluster.d', { recursive: true });
    writeFileSync('/etc/postgresql-common/createcluster.d/00-dock-row.conf', 'create_main_cluster = false\n');
  }
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  runOrGiveUp('apt-get', ['update', '-q'], 'the list of Debian packages could not be fetched.', { env });
  runOrGiveUp('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...missing], `${names} could not be installed.`, { env });
}

export const debian = {
  postgresql: { postgresql: () => postgresBin() !== null },
  browser: { chromium: () => existsSync('/usr/bin/chromium') },
  readers: {
    'zbar-tools': () => which('zbarimg') !== '',
    'poppler-utils': () => which('pdftotext') !== '',
    'dmtx-utils': () => which('dmtxread') !== '',
  },
};

/** Installs the npm packages when the lock file is newer than what is there. */
export function ensureNodeModules() {
  if (Number(process.versions.node.split('.')[0]) < 20) giveUp(`Node.js 20 or newer is needed; this is ${process.versions.node}.`);
  const stamp = path.join(root, 'node_modules', '.dock-row-lock');
  const wanted = createHash('sha256')
    .update(readFileSync(path.join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  console.log('Installing npm packages …');
  runOrGiveUp('npm', ['ci', '--no-audit', '--no-fund'], 'the npm packages could not be installed.');
  writeFileSync(stamp, wanted);
}

/** Gives up unless so many megabytes are free where `folder` lies. */
export function ensureDisk(folder, megabytes) {
  const { bavail, bsize } = statfsSync(folder);
  const free = Math.floor((bavail * bsize) / 1e6);
  if (free < megabytes) giveUp(`the disk is full: ${free} MB are free at ${folder}, ${megabytes} MB are needed.`);
}

/** Whether a TCP port on loopback can be listened on. */
export function isPortFree(port) {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

/** The first port from here on that can be listened on. */
export async function freePort(from) {
  let candidate = from;
  while (!(await isPortFree(candidate))) candidate += 1;
  return candidate;
}

/** The folder that holds the private database and what belongs to it. */
export function dockrowHome(name = '') {
  const chosen = process.env.DOCKROW_HOME ? path.resolve(process.env.DOCKROW_HOME, name) : path.join(root, '.dockrow', name);
  const home =
    process.getuid() === 0 && !reachableForOthers(path.dirname(root)) && !process.env.DOCKROW_HOME
      ? path.join('/var/lib', `dockrow-${createHash('sha256').update(root).digest('hex').slice(0, 8)}`, name)
      : chosen;
  try {
    mkdirSync(home, { recursive: true });
    accessSync(home, constants.W_OK);
  } catch {
    giveUp(`the folder ${home} cannot be written. Set DOCKROW_HOME to one that can.`);
  }
  return home;
}

// PostgreSQL refuses to run as root, and its own user cannot pass through a folder such as /root.
function reachableForOthers(folder) {
  return spawnSync('runuser', ['-u', 'nobody', '--', 'test', '-x', folder]).status === 0;
}

/** Starts a program and stops it, with what it started, when this one ends. */
export function startChild(command, args, options = {}) {
  const child = spawn(command, args, { cwd: root, stdio: 'inherit', ...options });
  const stop = () => child.kill('SIGTERM');
  process.once('exit', stop);
  return child;
}
