// npm test: everything from a fresh machine to one closing line. Each suite runs even when another failed.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { debian, dockrowHome, ensureDebianPackages, ensureDisk, ensureNodeModules, root } from './machine.mjs';
import { startPostgres } from './postgres.mjs';

ensureDisk(root, 1500);
ensureDebianPackages({ ...debian.postgresql, ...debian.browser, ...debian.readers });
ensureNodeModules();
const database = await startPostgres(dockrowHome('test'), { durable: false });
process.on('exit', () => database.startedHere && database.stop());
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => process.exit(1));

// `--database`: nothing but the database, for running one test by hand.
if (process.argv.includes('--database')) {
  console.log(`TEST_DATABASE_URL=${database.ownerUrl}\nCtrl-C ends it.`);
  setInterval(() => undefined, 60_000);
  await new Promise(() => undefined);
}

const env = { ...process.env, TEST_DATABASE_URL: database.ownerUrl, NODE_OPTIONS: '--experimental-vm-modules --no-warnings' };
const reports = mkdtempSync(path.join(tmpdir(), 'dock-row-'));
let passed = 0;
let failed = 0;

/** Runs a check that has no count of its own: it counts as one. */
function check(name, command, args) {
  console.log(`\n── ${name}`);
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...env, NODE_OPTIONS: '' } });
  if (status === 0) passed += 1;
  else failed += 1;
}

/** Runs a suite that writes a report; a suite that fell over before it could write one counts as one failure. */
function suite(name, command, args, report, count) {
  console.log(`\n── ${name}`);
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...env, PLAYWRIGHT_JSON_OUTPUT_NAME: report } });
  try {
    const [good, bad] = count(JSON.parse(readFileSync(report, 'utf8')));
    passed += good;
    failed += bad;
    if (good + bad === 0 || (status !== 0 && bad === 0)) failed += 1;
  } catch {
    failed += 1;
  }
}

check('formatting', 'npx', ['prettier', '--check', '--log-level', 'warn', '.']);
check('lint', 'npx', ['eslint', '.', '--max-warnings', '0']);
check('types', 'npx', ['tsc', '-p', '.']);
check('dependency rules', 'npx', [
  'depcruise',
  '--config',
  '.dependency-cruiser.cjs',
  'core',
  'contract',
  'server',
  'web',
  'devices',
  'demo',
  'e2e',
  'bench',
]);
check('the rules themselves', 'node', ['scripts/rules.mjs']);
check('build', 'node', ['scripts/build.mjs']);
const jest = path.join(reports, 'jest.json');
suite('core, database and server tests', 'npx', ['jest', '--maxWorkers=2', '--json', `--outputFile=${jest}`], jest, (r) => [
  r.numPassedTests,
  r.numFailedTests + r.numRuntimeErrorTestSuites,
]);
const browser = path.join(reports, 'browser.json');
suite('browser tests', 'npx', ['playwright', 'test', '--reporter=list,json'], browser, (r) => [
  r.stats.expected,
  r.stats.unexpected + r.stats.flaky,
]);
rmSync(reports, { recursive: true, force: true });

console.log(`\n${passed} passed, ${failed} failed`);
process.exitCode = failed === 0 ? 0 : 1;
