// npm run bench:stage: a field of poses and a live stage in the running application with the demo world (npm start first), in
// headless Chromium with software WebGL. How soon a hand or a packet is a picture, and whether ten minutes fill the memory:
// VELVET_MINUTES says how many.
import { spawn } from 'node:child_process';
import { call as ask, median, most, openBrowser, signIn } from './browser.mjs';

const address = process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000';
const MINUTES = Number(process.env.VELVET_MINUTES ?? 10);
const POSES = ['Lantern low', 'Lantern up', 'Lantern hung', 'Hands coming down'];
const MOVES = 120;

const browser = await openBrowser();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.addInitScript(() => {
  const seen = { landed: 0, shows: 0, lags: [] };
  window.velvetBench = seen;
  // where the processor draws, a picture is on the screen when it has been copied there; it shows what was due when it was begun
  const { clear, blitFramebuffer } = WebGL2RenderingContext.prototype;
  WebGL2RenderingContext.prototype.clear = function (...all) {
    seen.shows = performance.now();
    return clear.apply(this, all);
  };
  WebGL2RenderingContext.prototype.blitFramebuffer = function (...all) {
    seen.landed = performance.now();
    if (seen.lags.length < 100_000) seen.lags.push(seen.landed - seen.shows);
    return blitFramebuffer.apply(this, all);
  };
});
const call = (method, path, body) => ask(page, method, path, body);
const share = (list, q) => [...list].sort((a, b) => a - b)[Math.floor(q * (list.length - 1))];

await signIn(page, address);
const performerId = (await call('GET', '/cast')).find((c) => c.name === 'Ines Vane').id;
await call('PATCH', '/me', { performerId });
const { items } = await call('GET', '/items?limit=500');
await call('PATCH', `/cast/${performerId}/field`, {
  client: 'benchofstage',
  number: Date.now() % 1_000_000_000,
  writes: POSES.map((name, order) => ({
    cell: `pin/${items.find((i) => i.name === name).id}`,
    to: { name, at: [0.2 + 0.6 * (order % 2), 0.2 + 0.6 * (order >> 1)], order },
  })),
});

// (1) the pointer on the field, until the picture of the mix is finished
await page.goto(`${address}/reels?field=true`);
await page.getByRole('application').waitFor();
await page.waitForTimeout(5000);
const hand = await page.evaluate(async (moves) => {
  const plane = document.querySelector('[role=application]');
  const box = plane.getBoundingClientRect();
  const out = [];
  for (let i = 0; i < moves; i++) {
    const [x, y] = [0.5 + 0.4 * Math.sin(i / 7), 0.5 + 0.4 * Math.cos(i / 5)];
    const at = {
      clientX: box.left + x * box.width,
      clientY: box.top + y * box.height,
      bubbles: true,
      pointerType: 'mouse',
    };
    const start = performance.now();
    plane.dispatchEvent(new PointerEvent('pointermove', at));
    await new Promise((done) => {
      const look = () => {
        if (window.velvetBench.landed > start) done(out.push(window.velvetBench.landed - start));
        else if (performance.now() - start > 1000) done();
        else setTimeout(look, 1);
      };
      look();
    });
    await new Promise((r) => setTimeout(r, 60));
  }
  return out;
}, MOVES);
console.log(
  `field: pointer to picture, ${hand.length} moves: median ${median(hand).toFixed(0)} ms, 95 % ${share(hand, 0.95).toFixed(0)} ms (reach ≤ 33)`,
);

// (2) a live stage at 120 a second, 5 % lost, 20 ms jitter
const stage = spawn(
  process.execPath,
  ['cli/velvet-reel.mjs', 'capture-stage', '--fps', '120', '--loss', '5', '--jitter', '20'],
  { stdio: 'ignore' },
);
try {
  await page.goto(`${address}/reels?live=true`);
  await page.getByRole('radio').first().waitFor();
  await page.waitForTimeout(5000);
  const devtools = await page.context().newCDPSession(page);
  const heap = async () => {
    await devtools.send('HeapProfiler.enable');
    await devtools.send('HeapProfiler.collectGarbage');
    return (await devtools.send('Runtime.getHeapUsage')).usedSize / 2 ** 20;
  };
  await page.evaluate(() => {
    window.velvetBench.lags.length = 0;
  });
  await page.getByRole('button', { name: 'Record a take' }).click();
  await page.waitForTimeout(30_000);
  await page.getByRole('button', { name: 'Stop the take' }).click();
  await page
    .getByText(/frames/)
    .last()
    .waitFor();
  const told = await page.locator('aside li p').allTextContents();
  const lags = await page.evaluate(() => window.velvetBench.lags);
  console.log(
    `live: what is due to its picture, ${lags.length} pictures in 30 s: median ${median(lags).toFixed(0)} ms, 95 % ${share(lags, 0.95).toFixed(0)} ms, at most ${most(lags).toFixed(0)} ms (reach ≤ 60 at 95 %, beyond the buffer)`,
  );
  console.log(`a take of 30 s: ${told.join(' ')}`);
  const first = await heap();
  const sizes = [];
  for (let m = 0; m < MINUTES; m++) {
    await page.waitForTimeout(60_000);
    sizes.push(await heap());
  }
  console.log(
    `memory of the page, a minute apart: ${[first, ...sizes].map((s) => s.toFixed(1)).join(', ')} MiB (reach: no growth)`,
  );
} finally {
  stage.kill();
}
await browser.close();
