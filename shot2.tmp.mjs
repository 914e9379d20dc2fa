import { execSync } from 'node:child_process';
import { chromium } from '@playwright/test';

const [, , castName, itemName, out, n = '12'] = process.argv;
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
await p.waitForTimeout(1500);
const cast = await (await p.request.get('http://127.0.0.1:3000/api/cast')).json();
const items = (await (await p.request.get('http://127.0.0.1:3000/api/items')).json()).items;
const c = cast.find((x) => x.name === castName),
  i = items.find((x) => x.name === itemName);
await p.goto(`http://127.0.0.1:3000/fitting?item=${i.id}&cast=${c.id}`);
await p.waitForTimeout(3500);
await p.keyboard.press('Space');
const range = p.locator('input[type=range]');
const max = Number(await range.getAttribute('max'));
const files = [];
for (let k = 0; k < Number(n); k++) {
  const f = Math.round((k * max) / (Number(n) - 1));
  await range.evaluate((el, v) => {
    el.value = v;
    el.dispatchEvent(new Event('input', { bubbles: true }));
  }, f);
  await p.waitForTimeout(350);
  const fn = `/work/main/.data/scratch/f${k}.png`;
  await p.screenshot({ path: fn, clip: { x: 190, y: 60, width: 560, height: 310 } });
  files.push(fn);
}
await b.close();
execSync(`montage ${files.join(' ')} -tile 3x -geometry 420x232+2+2 ${out}`);
