import { defineConfig } from '@playwright/test';

export default defineConfig({
  // files run by name, one after the other, on one library: first-light comes first and finds it empty
  testDir: 'e2e',
  timeout: 480_000,
  // long enough for a machine that does ten other things; what waits here waits for something that will come
  expect: { timeout: 120_000 },
  workers: 1,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  outputDir: 'test-results/e2e',
  use: {
    baseURL: process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000',
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // stages stand until they are played: the processor stands in for a graphics card here
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      executablePath: process.env.VELVET_CHROMIUM ?? '/usr/bin/chromium',
      args: [
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
