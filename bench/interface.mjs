// npm run bench:interface: figures of the running application (start it first), in headless Chromium with software WebGL.
import { openBrowser } from './browser.mjs';

const address = process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000';
const browser = await openBrowser();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });

// first strips: from the click on Library to the first canvas with ink on it
const firsts = [];
await page.goto(`${address}/cast`);
await page.waitForTimeout(3000);
for (let i = 0; i < 5; i++) {
  firsts.push(
    await page.evaluate(
      () =>
        new Promise((resolve) => {
          const start = performance.now();
          document.querySelector('a[href="/library"][title]').click();
          const look = () => {
            const c = document.querySelector('[data-strip] canvas');
            const inked =
              c &&
              c.width > 300 &&
              c
                .getContext('2d')
                .getImageData(0, 0, c.width, c.height)
                .data.some((x, k) => k % 4 === 3 && x > 0);
            if (inked) resolve(performance.now() - start);
            else requestAnimationFrame(look);
          };
          requestAnimationFrame(look);
        }),
    ),
  );
  await page.click('a[href="/cast"][title]');
  await page.waitForTimeout(1500);
}
firsts.sort((a, b) => a - b);
console.log(`first strips after the click: median ${firsts[2].toFixed(0)} ms (reach ≤ 1000)`);

// scrubbing: pictures of the strip's live figure a second while the pointer moves
await page.click('a[href="/library"][title]');
await page.waitForSelector('[data-strip] canvas');
await page.waitForTimeout(2500);
const rates = [];
for (let i = 0; i < 5; i++) {
  const box = await page
    .locator('[data-strip]')
    .nth(i % 3)
    .boundingBox();
  await page.mouse.move(box.x + 30, box.y + 40);
  await page.waitForTimeout(600);
  rates.push(
    await page.evaluate(
      ({ x, y, w }) =>
        new Promise((resolve) => {
          const target = document.elementFromPoint(x + 5, y);
          let n = 0;
          let busy = 0;
          const start = performance.now();
          const next = () => {
            const t = performance.now() - start;
            if (t > 1500) return resolve({ rate: (1000 * n) / t, cost: busy / n });
            const a = performance.now();
            target.dispatchEvent(
              new PointerEvent('pointermove', {
                bubbles: true,
                clientX: x + (0.5 + 0.5 * Math.sin(t / 250)) * w,
                clientY: y,
              }),
            );
            busy += performance.now() - a;
            n++;
            requestAnimationFrame(next);
          };
          requestAnimationFrame(next);
        }),
      { x: box.x + 30, y: box.y + 40, w: box.width - 60 },
    ),
  );
}
rates.sort((a, b) => a.rate - b.rate);
console.log(
  `scrubbing: median ${rates[2].rate.toFixed(0)} pictures a second (reach ≥ 50), ${rates[2].cost.toFixed(1)} ms each on the page's thread`,
);
await browser.close();
