// npm run bench:interface: figures of the running application (start it first), in headless Chromium with software WebGL.
import { gzipSync } from 'node:zlib';
import { median, most, openBrowser, signIn } from './browser.mjs';

const address = process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000';
const browser = await openBrowser();

// the first minute: from signing in to the first figure that moves on the stage, in a browser that was never here before
const figures = [];
for (let i = 0; i < 5; i++) {
  const fresh = await openBrowser();
  const first = await fresh.newPage({ viewport: { width: 1280, height: 800 } });
  await first.goto(address);
  const person = first.getByRole('button', { name: /^ilse /i });
  await person.waitFor();
  // as long as somebody takes at least to see who they are
  await first.waitForTimeout(1500);
  const start = Date.now();
  await person.click();
  const moved = await first.evaluate(
    () =>
      new Promise((resolve) => {
        const small = Object.assign(document.createElement('canvas'), { width: 64, height: 64 });
        const pen = small.getContext('2d', { willReadFrequently: true });
        let last;
        const look = () => {
          const stage = document.querySelector('.stage-back canvas');
          if (stage?.width > 100) {
            pen.drawImage(stage, 0, 0, 64, 64);
            const now = pen.getImageData(0, 0, 64, 64).data.join();
            if (last !== undefined && now !== last) return resolve(Date.now());
            last = now;
          }
          requestAnimationFrame(look);
        };
        requestAnimationFrame(look);
      }),
  );
  figures.push(moved - start);
  await fresh.close();
}
console.log(
  `first moving figure after signing in: median ${median(figures).toFixed(0)} ms, most ${most(figures).toFixed(0)} ms (reach ≤ 2000)`,
);

const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await signIn(page, address);

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
console.log(`first strips after the click: median ${median(firsts).toFixed(0)} ms (reach ≤ 1000)`);

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

// script that a place asks for on its first load, compressed, without the packages that draw the stage
for (const place of ['library', 'cast', 'fitting', 'intake', 'people', 'activity']) {
  const html = await (await fetch(`${address}/${place}`)).text();
  const tags = [...html.matchAll(/<script[^>]*src="([^"]+)"[^>]*>/g)].filter((m) => !/nomodule/i.test(m[0]));
  let own = 0;
  let stage = 0;
  for (const src of new Set(tags.map((m) => m[1]))) {
    const text = await (await fetch(address + src)).text();
    const bytes = gzipSync(text).length;
    if (/WebGLRenderer/.test(text)) stage += bytes;
    else own += bytes;
  }
  console.log(
    `script of /${place}: ${(own / 1000).toFixed(0)} kB (reach ≤ 350), and ${(stage / 1000).toFixed(0)} kB of the stage`,
  );
}

// scrolling through everything: how long the middle of the list shows no item; wants a large library (npm run demo:large)
await page.goto(`${address}/library`);
await page.waitForSelector('[data-strip] canvas');
await page.waitForTimeout(2000);
for (const view of ['strips', 'table', 'tiles']) {
  await page.goto(`${address}/library?view=${view}`);
  await page.getByRole('option').first().waitFor();
  await page.waitForTimeout(1500);
  const seen = await page.evaluate(
    () =>
      new Promise((resolve) => {
        const list = document.querySelector('[role=listbox]');
        const box = list.getBoundingClientRect();
        const total = Number(
          /of ([\d,]+)/.exec(document.querySelector('[aria-label=Items]')?.textContent ?? '')?.[1]?.replace(',', '') ??
            0,
        );
        const blank = [];
        let since = null;
        const start = performance.now();
        const run = 12_000;
        const step = () => {
          const now = performance.now();
          const share = (now - start) / run;
          // rows have gaps between them: one of two places is on a row
          const there = [0, 24].some((y) =>
            document
              .elementFromPoint(box.left + box.width / 2, box.top + box.height / 2 + y)
              ?.closest('[role=option], [data-coming=named]'),
          );
          if (!there) since ??= now;
          else if (since !== null) {
            blank.push(now - since);
            since = null;
          }
          // what the last move came to was looked at above; a drag of the bar, as somebody looks for something
          list.scrollTop = (list.scrollHeight - box.height) * Math.min(1, share * 0.98 + 0.01 * Math.sin(now / 90));
          if (share < 1) requestAnimationFrame(step);
          else resolve({ total, blank });
        };
        requestAnimationFrame(step);
      }),
  );
  console.log(
    `scrolling ${seen.total} items as ${view} in 12 s: blank ${seen.blank.length} times, at most ${most(seen.blank).toFixed(0)} ms, median ${seen.blank.length > 0 ? median(seen.blank).toFixed(0) : 0} ms (reach ≤ 100)`,
  );
}
await browser.close();
