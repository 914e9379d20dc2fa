import { chromium } from '@playwright/test';

const b = await chromium.launch({
  executablePath: '/usr/bin/chromium',
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
const p = await b.newPage({ viewport: { width: 1280, height: 800 } });
await p.goto('http://127.0.0.1:3000/library');
await p.waitForTimeout(4000);
const fps = () =>
  p.evaluate(
    () =>
      new Promise((r) => {
        let n = 0;
        const s = performance.now();
        const f = () => {
          n++;
          const t = performance.now() - s;
          t > 2500 ? r(((1000 * n) / t).toFixed(1)) : requestAnimationFrame(f);
        };
        requestAnimationFrame(f);
      }),
  );
console.log('playing', await fps());
await p.keyboard.press('Space');
await p.waitForTimeout(500);
console.log('paused', await fps());
await b.close();
