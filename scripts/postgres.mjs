// A private PostgreSQL: own data folder, own port on loopback, never as root, never touching a server that is already there.
import { spawnSync } from 'node:child_process';
import { chmodSync, chownSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { ensureDisk, giveUp, isPortFree, postgresBin, runOrGiveUp } from './machine.mjs';

const FIRST_PORT = 4810;

function asPostgres(bin, program, args, sentence) {
  const command = path.join(bin, program);
  return process.getuid() === 0
    ? runOrGiveUp('runuser', ['-u', 'postgres', '--', command, ...args], sentence, { cwd: '/' })
    : runOrGiveUp(command, args, sentence);
}

function isRunning(bin, data) {
  const args = ['-D', data, 'status'];
  const status =
    process.getuid() === 0
      ? spawnSync('runuser', ['-u', 'postgres', '--', path.join(bin, 'pg_ctl'), ...args], { cwd: '/' })
      : spawnSync(path.join(bin, 'pg_ctl'), args);
  return status.status === 0;
}

/** Starts the private PostgreSQL of a home folder, making it on the first call.
 *  Returns its address, whether this call started it, and how to stop it. `durable: false` is for tests only. */
export async function startPostgres(home, { durable = true } = {}) {
  const bin = postgresBin();
  if (!bin) giveUp('PostgreSQL is not installed.');
  const base = path.join(home, 'postgres');
  const data = path.join(base, 'data');
  const portFile = path.join(base, 'port');
  mkdirSync(base, { recursive: true });
  if (process.getuid() === 0) {
    const [uid, gid] = ['-u', '-g'].map((flag) => Number(spawnSync('id', [flag, 'postgres'], { encoding: 'utf8' }).stdout));
    chownSync(base, uid, gid);
    chmodSync(home, 0o755);
  }
  if (!existsSync(path.join(data, 'PG_VERSION'))) {
    ensureDisk(home, 300);
    asPostgres(
      bin,
      'initdb',
      ['-D', data, '-U', 'postgres', '--auth=trust', '--encoding=UTF8', '--locale=C.UTF-8', '--data-checksums'],
      'the database folder could not be made.',
    );
  }
  const address = (port) => `postgres://postgres@127.0.0.1:${port}/dockrow`;
  const stop = () => {
    asPostgres(bin, 'pg_ctl', ['-D', data, '-m', 'fast', '-w', 'stop'], 'the database did not stop.');
  };
  if (isRunning(bin, data)) {
    const port = Number(readFileSync(path.join(data, 'postmaster.pid'), 'utf8').split('\n')[3]);
    return { url: address(port), startedHere: false, stop };
  }
  let port = existsSync(portFile) ? Number(readFileSync(portFile, 'utf8')) : FIRST_PORT;
  while (!(await isPortFree(port))) port += 1;
  writeFileSync(portFile, String(port));
  ensureDisk(home, 100);
  const options = [
    `-p ${port}`,
    '-c listen_addresses=127.0.0.1',
    `-c unix_socket_directories=${base}`,
    '-c max_connections=100',
    '-c shared_buffers=256MB',
    '-c jit=off',
    '-c log_min_messages=warning',
    ...(durable ? [] : ['-c fsync=off', '-c synchronous_commit=off', '-c full_page_writes=off']),
  ].join(' ');
  asPostgres(
    bin,
    'pg_ctl',
    ['-D', data, '-w', '-l', path.join(base, 'log'), '-o', options, 'start'],
    `PostgreSQL did not start; its own words are in ${path.join(base, 'log')}.`,
  );
  return { url: address(port), startedHere: true, stop };
}
