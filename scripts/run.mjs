// Runs one of the project's tools against DATABASE_URL, or against the demo's private database when it is not set.
import { spawnSync } from 'node:child_process';
import { debian, dockrowHome, ensureDebianPackages, ensureNodeModules, giveUp, root } from './machine.mjs';
import { startPostgres } from './postgres.mjs';

const TOOLS = {
  audit: { file: 'server/audit-main.ts', needs: debian.postgresql },
  backup: { file: 'server/backup-main.ts', args: ['backup'], needs: debian.postgresql },
  restore: { file: 'server/backup-main.ts', args: ['restore'], needs: debian.postgresql },
  bench: { file: 'bench/main.ts', needs: debian.postgresql, own: true },
  screenshots: { file: 'e2e/screenshots.ts', needs: { ...debian.postgresql, ...debian.browser }, own: true },
};
const [name, ...rest] = process.argv.slice(2);
const tool = TOOLS[name];
if (!tool) giveUp(`there is no tool “${name}”. There are: ${Object.keys(TOOLS).join(', ')}.`);
ensureDebianPackages(tool.needs);
ensureNodeModules();
let database = null;
let url = tool.own ? null : process.env.DATABASE_URL;
if (!url) {
  // Measuring and photographing write a lot: they get a private database of their own.
  database = await startPostgres(dockrowHome(tool.own ? name : ''));
  url = database.ownerUrl;
}
const result = spawnSync('node', ['--import', 'tsx', tool.file, ...(tool.args ?? []), ...rest], {
  cwd: root,
  stdio: 'inherit',
  env: { ...process.env, DATABASE_URL: url },
});
if (database?.startedHere) database.stop();
process.exit(result.status ?? 1);
