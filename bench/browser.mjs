import { chromium } from '@playwright/test';

/** Headless Chromium with software WebGL, as the benchmarks of the interface use it. */
export const openBrowser = () =>
  chromium.launch({
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
  });
