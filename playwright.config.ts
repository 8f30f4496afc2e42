import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'e2e',
  testMatch: '*.spec.ts',
  workers: 2,
  // Two browsers at once on two cores, and whatever else a machine has to do: no test says anything about speed.
  timeout: 180_000,
  expect: { timeout: 15_000 },
  outputDir: 'test-results',
  use: {
    trace: 'retain-on-failure',
    actionTimeout: 20_000,
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--headless',
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
