// npm run bench:session: how much memory the page takes in a long session of browsing and fitting, on the running application
// with the demo world (npm start first). One page, never loaded anew, goes from place to place for VELVET_MINUTES (10), an action
// a second or so: some ten times as many as a person does, so that twelve minutes are two hours.
import { readFileSync } from 'node:fs';
import { call as ask, openBrowser, signIn } from './browser.mjs';

const MINUTES = Number(process.env.VELVET_MINUTES ?? 10);
const address = process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000';
const browser = await openBrowser();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const errors = [];
page.on('pageerror', (e) => errors.push(e.message.slice(0, 120)));
const system = await browser.newBrowserCDPSession();
const own = await page.context().newCDPSession(page);
await own.send('Performance.enable');

/** MiB: the largest renderer as a process, and the page's JavaScript heap after it was tidied. */
async function memory() {
  await own.send('HeapProfiler.collectGarbage');
  const { processInfo } = await system.send('SystemInfo.getProcessInfo');
  const rss = processInfo
    .filter((p) => p.type === 'renderer')
    .map((p) => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${p.id}/status`, 'utf8'))?.[1] ?? 0) / 1024);
  const { metrics } = await own.send('Performance.getMetrics');
  const heap = metrics.find((m) => m.name === 'JSHeapUsedSize').value / 2 ** 20;
  return { rss: Math.max(...rss), heap, nodes: metrics.find((m) => m.name === 'Nodes').value };
}

await signIn(page, address);
const cast = (await ask(page, 'GET', '/cast')).map((c) => c.name);
let done = 0;
const act = async (run) => {
  done++;
  await run().catch((e) => errors.push(String(e).split('\n')[0].slice(0, 120)));
  await page.waitForTimeout(300);
};
const go = (place) =>
  act(() => page.getByRole('navigation', { name: 'Places' }).getByText(place).click({ timeout: 8000 }));

async function browse(round) {
  await go('Library');
  const search = page.getByRole('combobox', { name: 'Search' });
  await act(() => search.fill(['walk', 'rope', '', 'lift', 'turn'][round % 5], { timeout: 8000 }));
  await act(() => search.press('Escape'));
  for (let i = 0; i < 6; i++) await act(() => page.keyboard.press('ArrowDown'));
  await act(() => page.mouse.move(700 + 20 * (round % 9), 300));
}

async function onto(round) {
  await act(() => page.keyboard.press('f'));
  await page.waitForTimeout(1500);
  for (let i = 1; i <= 6; i++) await act(() => page.keyboard.press(String(i)));
  await act(() => page.keyboard.press('Space'));
  await act(() => page.mouse.click(500 + 10 * (round % 20), 720));
}

async function look(round) {
  await go('Cast');
  await act(() =>
    page
      .getByText(cast[round % cast.length], { exact: true })
      .first()
      .click({ timeout: 8000 }),
  );
  await act(() => page.keyboard.press('t'));
  await go('Reels');
  await act(() => page.keyboard.press('Space'));
  await act(() => page.keyboard.press('Space'));
}

const rows = [];
const began = Date.now();
let next = 0;
for (let round = 0; Date.now() - began < MINUTES * 60_000; round++) {
  await browse(round);
  await onto(round);
  await look(round);
  const minute = (Date.now() - began) / 60_000;
  if (minute < next) continue;
  next = minute + MINUTES / 10;
  const m = await memory();
  rows.push(m);
  console.log(
    `${minute.toFixed(1)} min, ${done} actions: page's process ${m.rss.toFixed(0)} MiB, heap ${m.heap.toFixed(0)} MiB, ${m.nodes} nodes`,
  );
}
const most = Math.max(...rows.map((r) => r.rss));
console.log(
  `at most ${most.toFixed(0)} MiB (1536); ${errors.length} errors${errors.length ? `: ${[...new Set(errors)].slice(0, 5).join(' | ')}` : ''}`,
);
await browser.close();
