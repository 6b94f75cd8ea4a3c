import { defineConfig, devices } from '@playwright/test'
import { CHROMIUM } from './scripts/machine/chromium.mjs'

export const SESSION = 'test-results/session.json'
const PORT = Number(process.env.SALT_TRAIL_E2E_PORT ?? 7350)

export default defineConfig({
  testDir: 'test/e2e',
  testMatch: '*.e2e.ts',
  globalSetup: './test/machine/e2e-setup.ts',
  outputDir: 'test-results',
  // Files run beside each other: one page waits for the server while another draws.
  workers: 2,
  fullyParallel: false,
  forbidOnly: true,
  retries: 0,
  timeout: 90_000,
  // What is computed on the server may wait for another file’s turn there.
  expect: { timeout: 20_000 },
  reporter: [['list'], ['json', { outputFile: 'test-results/playwright.json' }]],
  use: {
    ...devices['Desktop Chrome'],
    // Signed in, by the one click that `npm start` offers, too.
    storageState: SESSION,
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: CHROMIUM,
    // Recording every page slows the run down, so it is done where somebody looks for a fault.
    trace: process.env.SALT_TRAIL_TRACES ? 'retain-on-failure' : 'off',
    screenshot: 'only-on-failure',
  },
  webServer: {
    command: `node test/machine/serve.mjs ${PORT}`,
    url: `http://127.0.0.1:${PORT}/api/ready`,
    timeout: 180_000,
    reuseExistingServer: false,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 15_000 },
    stdout: 'ignore',
    stderr: 'pipe',
  },
})
