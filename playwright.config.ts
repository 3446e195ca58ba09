import { defineConfig } from '@playwright/test';
import { browserPath, FLAGS } from './tools/chromium.mjs';

/** Another one where several runs go on side by side. */
const PORT = Number(process.env['E2E_PORT'] ?? 4377);

export default defineConfig({
  testDir: 'tests/e2e',
  globalSetup: './tests/helpers/build-cli.mjs',
  // each test has a browser context of its own
  workers: 2,
  // what only a second try passes is named at the end of `npm test`
  retries: process.env['CI'] ? 1 : 0,
  timeout: 60_000,
  expect: { timeout: 15_000 },
  reporter: [['line'], ['json', { outputFile: 'reports/playwright.json' }]],
  outputDir: 'test-results',
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: browserPath(), args: FLAGS },
    permissions: ['clipboard-read', 'clipboard-write'],
    trace: 'off',
  },
  webServer: {
    command: `node node_modules/next/dist/bin/next start -H 127.0.0.1 -p ${PORT}`,
    url: `http://127.0.0.1:${PORT}`,
    reuseExistingServer: false,
    env: { NEXT_TELEMETRY_DISABLED: '1' },
  },
});
