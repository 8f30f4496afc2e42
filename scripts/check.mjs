// npm run check: what can be known in under a minute, without a database: formatting, lint, types, dependency rules, and the tests of core
// and web.
import { spawn } from 'node:child_process';
import { ensureNodeModules, root } from './machine.mjs';

ensureNodeModules();
const FLOORS = ['core', 'contract', 'server', 'web', 'devices', 'demo', 'e2e', 'bench'];
const CHECKS = [
  ['formatting', 'prettier', ['--check', '--log-level', 'warn', '--cache', '.']],
  ['lint', 'eslint', ['.', '--max-warnings', '0', '--cache', '--cache-location', 'node_modules/.cache/eslint/']],
  ['types', 'tsc', ['-p', '.', '--incremental', '--tsBuildInfoFile', 'node_modules/.cache/types.tsbuildinfo']],
  ['dependency rules', 'depcruise', ['--config', '.dependency-cruiser.cjs', ...FLOORS]],
  ['core and web', 'jest', ['--selectProjects', 'core', '--silent']],
];

// Two at once: this is for machines of two cores and more, and lint and types wait for nothing but the processor.
const waiting = [...CHECKS];
let failed = 0;
async function work() {
  for (let next = waiting.shift(); next; next = waiting.shift()) {
    const [name, program, args] = next;
    const started = Date.now();
    const { code, said } = await run(program, args);
    console.log(`${code === 0 ? 'good' : 'BAD '}  ${name}, ${((Date.now() - started) / 1000).toFixed(0)} s`);
    if (code !== 0) console.log(said);
    failed += code === 0 ? 0 : 1;
  }
}

function run(program, args) {
  return new Promise((resolve) => {
    const child = spawn('npx', [program, ...args], {
      cwd: root,
      env: { ...process.env, NODE_OPTIONS: '--experimental-vm-modules --no-warnings' },
    });
    let said = '';
    child.stdout.on('data', (part) => (said += part));
    child.stderr.on('data', (part) => (said += part));
    child.on('close', (code) => resolve({ code, said }));
  });
}

await Promise.all([work(), work()]);
process.exit(failed === 0 ? 0 : 1);
