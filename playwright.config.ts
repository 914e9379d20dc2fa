import { defineConfig } from '@playwright/test';

/** A library for each browser that runs. */
const libraries = (process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000').split(' ');

export default defineConfig({
  // files are handed out by name, each to the browser that is free: first-light is the first and finds its library empty
  testDir: 'e2e',
  timeout: 480_000,
  // long enough for a machine that does ten other things; what waits here waits for something that will come
  expect: { timeout: 120_000 },
  workers: libraries.length,
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  outputDir: 'test-results/e2e',
  use: {
    baseURL: libraries[Number(process.env.TEST_PARALLEL_INDEX ?? 0)],
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // stages stand until they are played: the processor stands in for a graphics card here
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      executablePath: process.env.VELVET_CHROMIUM ?? '/usr/bin/chromium-headless-shell',
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
