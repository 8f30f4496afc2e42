// That the house rules are rules: each is broken once, in a copy, and must be found by its own name.
import { spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { root } from './machine.mjs';

/** A file that breaks a rule, what it imports, and the rule that must speak. */
const FAULTS = [
  ['core/stock/planted.ts', '#core/orders', 'stock-looks-left-only'],
  ['server/places/planted.ts', '#server/stock', 'places-looks-left-only'],
  ['contract/items/planted.ts', '#contract/picking', 'items-looks-left-only'],
  ['web/items/planted.ts', '#web/orders', 'web-items-looks-left-only'],
  ['web/orders/planted.ts', '#web/handheld', 'web-orders-looks-left-only'],
  ['web/hands/planted.ts', '#web/orders', 'web-ground-knows-no-room'],
  ['server/labels/planted.ts', '#server/stock', 'labels-know-items-and-places-only'],
  ['core/base/planted.ts', 'knex', 'core-is-pure'],
  ['contract/base/planted.ts', '#server/kernel', 'contract-knows-core'],
  ['web/base/planted.ts', '#server/kernel', 'web-never-imports-server'],
  ['server/kernel/planted.ts', '#web/base', 'server-never-imports-web'],
  ['server/orders/planted.ts', '../stock/store.ts', 'rooms-by-their-door'],
  ['web/desk/planted.ts', 'pg', 'sql-stands-on-the-server'],
  ['server/moves/planted.ts', './nowhere.ts', 'everything-resolves'],
  ['core/moves/planted-too.ts', './planted.ts', 'no-circles'],
];

const house = mkdtempSync(path.join(tmpdir(), 'dock-row-rules-'));
try {
  const floors = ['core', 'contract', 'server', 'web'];
  for (const floor of [...floors, 'demo', 'eslint.config.js', '.dependency-cruiser.cjs', 'tsconfig.json', 'package.json'])
    cpSync(path.join(root, floor), path.join(house, floor), { recursive: true });
  symlinkSync(path.join(root, 'node_modules'), path.join(house, 'node_modules'));
  for (const [file, imports] of FAULTS) {
    mkdirSync(path.dirname(path.join(house, file)), { recursive: true });
    writeFileSync(path.join(house, file), `import * as planted from '${imports}';\nexport const used = planted;\n`);
  }
  writeFileSync(path.join(house, 'core/moves/planted.ts'), `import { used } from './planted-too.ts';\nexport const again = used;\n`);
  writeFileSync(
    path.join(house, 'server/orders/planted-sql.ts'),
    "import { query, type Trx } from '#server/kernel';\nexport const write = (trx: Trx) => query(trx, `UPDATE item SET code = ?`, " +
      "['X']);\n",
  );
  const { stdout } = spawnSync('npx', ['depcruise', '--config', '.dependency-cruiser.cjs', '--output-type', 'json', ...floors], {
    cwd: house,
    encoding: 'utf8',
    maxBuffer: 2 ** 28,
  });
  const found = new Set(JSON.parse(stdout).summary.violations.map((v) => `${v.from} ${v.rule.name}`));
  const silent = FAULTS.filter(([file, , rule]) => !found.has(`${file} ${rule}`));
  for (const [file, imports, rule] of silent) console.error(`${rule} says nothing to ${file}, which imports ${imports}.`);
  console.log(`${FAULTS.length - silent.length} of ${FAULTS.length} planted faults were found.`);
  const lint = spawnSync('npx', ['eslint', 'server/orders/planted-sql.ts'], { cwd: house, encoding: 'utf8' });
  const isHeard = lint.stdout.includes('SQL that writes or locks stands in the store.ts of its room');
  console.log(
    isHeard ? 'SQL that writes outside a store was found.' : `SQL that writes outside a store was not found: ${lint.stdout}${lint.stderr}`,
  );
  process.exitCode = silent.length === 0 && isHeard ? 0 : 1;
} finally {
  rmSync(house, { recursive: true, force: true });
}
