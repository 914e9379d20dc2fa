// npm run bench:lanes: dragging and zooming on a reel of 300 items and 10,000 keys, in the running application (start it first),
// headless Chromium without a graphics card.
import { call, openBrowser, signIn } from './browser.mjs';

const ITEMS = 300;
const KEYS = 10_000;
const EVERY = 24;
const frames = ITEMS * EVERY;
const address = process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000';
const browser = await openBrowser();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
await signIn(page, address);
const [shown] = await call(page, 'GET', '/reels');
const { content } = await call(page, 'GET', `/reels/${shown.id}`);
const member = content.members.find((m) => m.base.length > 0);
const [like] = member.base;
const { rigId } = (await call(page, 'GET', '/cast')).find((c) => c.id === member.castId);
const { rig } = await call(page, 'GET', `/rigs/${rigId}`);
const joints = rig.joints.slice(0, 10).map((j) => j.name);
const reel = await call(page, 'POST', '/reels', {
  ...content,
  name: 'Very full',
  frames,
  members: [
    {
      ...member,
      base: Array.from({ length: ITEMS }, (_, i) => ({
        ...like,
        id: `p${i}`,
        at: i * EVERY,
        from: 0,
        to: EVERY,
        repeats: 1,
      })),
      overlays: [],
      keys: joints.map((joint) => ({
        joint,
        keys: Array.from({ length: KEYS / joints.length }, (_, k) => ({
          frame: Math.floor((k * frames * joints.length) / KEYS),
          turn: [0.01 * Math.sin(k), 0, 0, 1],
        })),
      })),
    },
  ],
});
await page.goto(`${address}/reels?reel=${reel.id}`);
const lanes = page.getByRole('region', { name: 'Lanes' });
await lanes.waitFor();
// until everything is worked out and drawn
await page.waitForTimeout(60_000);

/** Pictures a second, and the longest wait for one, while something is done at every picture. */
const measured = (act) =>
  page.evaluate(
    ([source]) =>
      new Promise((resolve) => {
        const step = new Function('t', source);
        const began = performance.now();
        let [n, last, longest] = [0, began, 0];
        const next = (now) => {
          n++;
          longest = Math.max(longest, now - last);
          last = now;
          if (now - began > 4000) return resolve({ rate: (1000 * n) / (now - began), longest });
          step(now - began);
          requestAnimationFrame(next);
        };
        requestAnimationFrame(next);
      }),
    [act],
  );

const box = await lanes.boundingBox();
const said = ({ rate, longest }) => `${rate.toFixed(0)} pictures/s (longest wait ${longest.toFixed(0)} ms)`;
const zoom = `document.querySelector('section[aria-label="Lanes"]').dispatchEvent(new WheelEvent('wheel', {
  bubbles: true, cancelable: true, ctrlKey: true, clientX: ${box.x + 600}, clientY: ${box.y + 60}, deltaY: 30 * (Math.floor(t / 1000) % 2 ? 1 : -1) }))`;
console.log(`${ITEMS} items and ${KEYS} keys, zooming: ${said(await measured(zoom))} (reach ≥ 50)`);
await page.waitForTimeout(1500);
await page.getByRole('button', { name: 'whole' }).click();
await page.waitForTimeout(1500);
const first = await lanes
  .getByRole('button', { name: /, frames 1201 to \d+$/ })
  .first()
  .boundingBox();
const [x, y] = [first.x + first.width / 2, first.y + first.height / 2];
await page.mouse.move(x, y);
await page.mouse.down();
const drag = `document.elementFromPoint(${x}, ${y}).dispatchEvent(new PointerEvent('pointermove', {
  bubbles: true, pointerId: 1, isPrimary: true, buttons: 1, clientX: ${x} + 150 * (1 - Math.cos(t / 300)), clientY: ${y} }))`;
console.log(`dragging an item: ${said(await measured(drag))} (reach ≥ 50)`);
await page.keyboard.press('Escape');
await page.mouse.up();
await call(page, 'PUT', `/reels/${reel.id}/bin`, { binned: true });
await browser.close();
