// npm run screenshots: takes the pictures of docs/screenshots anew, of the running application (npm start) with the demo world
// as it is after npm run reset; what is made for them stays in it. All, or those named: npm run screenshots -- cast field
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { call as ask, openBrowser, signIn } from '../bench/browser.mjs';
import { memberFile } from '../demo/build';
import { CAST } from '../demo/cast';
import { performAll } from '../demo/world';
import { trim, writeBvh } from '../motion/index';

const address = process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000';
const folder = join(import.meta.dirname, '../docs/screenshots');
const wanted = process.argv.slice(2);
const browser = await openBrowser();
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
const call = (method, path, body) => ask(page, method, path, body);
const idOf = (list, name) => {
  const found = list.find((x) => x.name === name);
  if (!found) throw new Error(`Nothing is called ${name}: npm run reset, then npm start.`);
  return found.id;
};

/** Nothing moves in a picture: time stands at a frame. */
async function standAt(frame) {
  const slider = page.getByRole('slider', { name: 'Frame' }).last();
  await slider.evaluate((input, value) => {
    input.value = value;
    input.dispatchEvent(new Event('input', { bubbles: true }));
  }, String(frame));
  await page.waitForTimeout(900);
}

await signIn(page, address);
const { items: stored } = await call('GET', '/items?limit=500');
const motions = (name) => idOf(stored, name);
const cast = await call('GET', '/cast');
const made = [];
const stages = [];

const views = {
  reel: async () => {
    const reels = await call('GET', '/reels');
    await page.goto(`${address}/reels?reel=${idOf(reels, 'Fog bell')}`);
    await page
      .getByRole('button', { name: /^Join: crossfade/ })
      .first()
      .waitFor();
    await page.waitForTimeout(2500);
    await standAt(70);
  },
  curves: async () => {
    await views.reel();
    await page
      .getByRole('button', { name: /as curves$/ })
      .first()
      .click();
    await page.getByRole('slider', { name: /^z of/ }).nth(1).click({ force: true });
    await page.waitForTimeout(800);
  },
  field: async () => {
    await page.goto(`${address}/reels?field=true`);
    const poses = ['Lantern low', 'Lantern up', 'Lantern hung', 'Hands coming down'];
    await page.getByLabel('Pose to pin').waitFor();
    const pinned = page.locator('aside li a');
    for (const [i, name] of poses.entries()) {
      if (await page.getByRole('link', { name, exact: true }).count()) continue;
      await page.getByLabel('Pose to pin').fill(name);
      await page.locator('aside button[aria-pressed]', { hasText: name }).first().click();
      await pinned.nth(i).waitFor();
    }
    await page.waitForTimeout(2500);
    const plane = await page.getByRole('application').boundingBox();
    await page.mouse.move(plane.x + 0.62 * plane.width, plane.y + 0.3 * plane.height);
    await page.waitForTimeout(1200);
  },
  live: async () => {
    const stage = spawn(
      process.execPath,
      ['cli/velvet-reel.mjs', 'capture-stage', '--performers', '2', '--loss', '1'],
      {
        stdio: 'ignore',
      },
    );
    stages.push(stage);
    await page.goto(`${address}/reels?live=true`);
    await page.getByRole('radio').first().waitFor();
    await page.waitForTimeout(3500);
    await page.getByLabel('Slate').fill('Gangway');
    await page.getByRole('button', { name: 'Record a take' }).click();
    await page.waitForTimeout(2500);
    await page.getByRole('button', { name: 'Stop the take' }).click();
    await page.getByRole('link', { name: 'Gangway 1, Performer 1' }).waitFor();
    await page.getByRole('button', { name: 'Mark Gangway 1, Performer 1 as a good take' }).click();
    await page.waitForTimeout(1500);
    const { items } = await call('GET', '/items?limit=500&q=Gangway%201');
    made.push(...items.filter((i) => i.name.startsWith('Gangway 1')).map((i) => i.id));
  },
  marks: async () => {
    const skeleton = await memberFile(CAST[0]);
    await page.goto(`${address}/cast?mesh=true`);
    await page
      .getByLabel('Mesh file')
      .setInputFiles({ name: 'Bare body.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(skeleton) });
    const knee = page.getByRole('button', { name: 'knee L, from the front' });
    await knee.waitFor({ timeout: 60_000 });
    await knee.hover();
    await page.waitForTimeout(900);
  },
  library: async () => {
    await page.goto(`${address}/library?item=${motions('Sit on the bollard')}`);
    await read();
    await standAt(138);
  },
  'library-table': async () => {
    await page.evaluate(() => localStorage.clear());
    await page.goto(`${address}/library?view=table&item=${motions('Deck walk')}`);
    await read();
    await standAt(12);
  },
  'library-change': async () => {
    await page.goto(`${address}/library?item=${motions('Tarred rope haul')}`);
    await read();
    await page.keyboard.press('c');
    await page.getByRole('region', { name: 'Change' }).getByRole('switch', { name: 'Mirror' }).click();
    await page.waitForTimeout(1500);
    await standAt(39);
  },
  versions: async () => {
    const copy = await call('POST', `/items/${motions('Pointing out the buoy')}/change`, {
      name: 'Buoy to port',
      change: { trim: { start: 0, end: 99 } },
    });
    made.push(copy.item.id);
    await page.goto(`${address}/library?q=${encodeURIComponent('"Buoy to port"')}&item=${copy.item.id}`);
    await read();
    await page.keyboard.press('c');
    const panel = page.getByRole('region', { name: 'Change' });
    await panel.getByRole('switch', { name: 'Mirror' }).click();
    await panel.getByRole('button', { name: 'Save over …' }).click();
    await panel.getByRole('button', { name: 'Yes, save as version 2' }).click();
    await page.getByRole('option').filter({ hasText: 'v2' }).waitFor();
    await page.keyboard.press('v');
    await page.getByRole('dialog').getByRole('button', { name: 'Compare with current' }).click();
    await page.waitForTimeout(2500);
    await standAt(90);
  },
  cast: async () => {
    await page.goto(`${address}/cast?member=${idOf(cast, 'Big Tove')}`);
    await page.getByText('What works and what does not').waitFor();
    await page.waitForTimeout(2500);
  },
  cutout: async () => {
    await page.goto(`${address}/cast?member=${idOf(cast, 'Gull Captain')}`);
    await page.getByText('What works and what does not').waitFor();
    await page.waitForTimeout(2500);
  },
  'cutout-fitting': async () => {
    await openFitting('Wave to shore', 'Gull Captain');
    await standAt(52);
    await page.getByRole('tab', { name: /Drawings/ }).click();
    await page.waitForTimeout(900);
  },
  swap: async () => {
    await openFitting('Lantern toss', 'Cook Anise');
    await page.getByRole('tab', { name: 'Swap' }).click();
    await page.getByRole('button', { name: 'head at frame 32, on purpose' }).click();
    await page.waitForTimeout(900);
  },
  fitting: async () => {
    await openFitting('Tarred rope haul', 'Big Tove');
    await standAt(30);
  },
  intake: async () => {
    await page.goto(`${address}/intake`);
    await bringIn();
    await page.waitForTimeout(900);
  },
  'intake-table': async () => {
    await page.goto(`${address}/intake`);
    await bringIn();
    await page
      .getByRole('region', { name: 'night.zip' })
      .first()
      .getByRole('button', { name: 'Describe from a table' })
      .click();
    await page
      .getByLabel('Choose a table')
      .setInputFiles({ name: 'index.csv', mimeType: 'text/csv', buffer: Buffer.from(table()) });
    await page
      .getByRole('dialog')
      .getByRole('tab', { name: /matched/ })
      .waitFor();
    await page.waitForTimeout(500);
  },
  supplier: async () => {
    const key = 'key-of-the-pictures';
    const supplier = spawn(process.execPath, ['cli/velvet-reel.mjs', 'supplier', '--key', key, '--takes', '48'], {
      stdio: 'ignore',
    });
    stages.push(supplier);
    await page.goto(`${address}/intake?supplier=true`);
    await page.getByRole('heading', { name: 'The Halyard Exchange' }).waitFor();
    const field = page.getByLabel('Key of the account');
    if (await field.isVisible()) {
      await field.fill(key);
      await page.getByRole('button', { name: 'Link', exact: true }).click();
    }
    await page
      .getByRole('button', { name: /^Tarred rope haul/ })
      .first()
      .click();
    // every strip in sight and the take that was chosen are there
    await page.waitForFunction(
      () =>
        [...document.images].every((i) => i.complete || i.getBoundingClientRect().top > innerHeight) &&
        !document.body.textContent.includes('Fetching …'),
      undefined,
      { timeout: 120_000 },
    );
    await page.waitForTimeout(1500);
  },
  play: async () => {
    const [play] = await call('GET', '/plays');
    await page.goto(`${address}/reels?play=${play.id}`);
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.getByRole('button', { name: /^State Waiting.*playing/ }).waitFor({ timeout: 60_000 });
    await page.keyboard.down('KeyW');
    await page.keyboard.down('ArrowUp');
    await page.waitForTimeout(1300);
    await page.keyboard.up('ArrowUp');
    await page.waitForTimeout(700);
  },
  people: async () => {
    await page.goto(`${address}/people`);
    await page.waitForTimeout(2500);
  },
};

for (const [name, show] of Object.entries(views)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue;
  await show();
  await page.screenshot({ path: join(folder, `${name}.png`) });
  console.log(`${name}.png`);
}
// what was made for the pictures goes to the bin
if (made.length > 0) {
  const edits = made.map((id) => ({ id, change: { binned: true } }));
  await call('PATCH', '/items', { edits, label: `Moved ${made.length} items to the bin` });
}
await browser.close();

/** Waits until what is chosen in the library has been read and drawn. */
async function read() {
  await page.getByRole('option').first().waitFor();
  await page
    .getByText(/out of 100 on|looks like/)
    .first()
    .waitFor();
  await page.waitForTimeout(2500);
}

async function openFitting(motion, onto) {
  await page.goto(`${address}/fitting?item=${motions(motion)}&cast=${idOf(cast, onto)}`);
  await page.getByText(/plants · worst slip|set down on the foot/).waitFor();
  await page.waitForTimeout(2500);
  await page.keyboard.press('Space');
}

/** A folder of numbered takes, one of them cut off, as they come from a day of capture. */
async function bringIn() {
  const card = page.getByRole('region', { name: 'night.zip' }).first();
  await page.waitForTimeout(1500);
  if (await card.isVisible()) return;
  const { actor, performances } = performAll();
  const files = {};
  performances
    .filter((p) => p.motion.frameCount > 90 && p.motion.frameCount < 1000)
    .slice(0, 24)
    .forEach(({ motion }, i) => {
      const text = writeBvh(actor.rig, trim(actor.rig, motion, 0, 60 + 2 * i));
      const name = `${i % 2 ? 'walk/07' : 'haul/08'}_${String(i + 1).padStart(2, '0')}.bvh`;
      files[name] = new TextEncoder().encode(text);
      if (i === 0) files['walk/broken.bvh'] = new TextEncoder().encode(text.slice(0, 9000));
    });
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'night.zip', mimeType: 'application/zip', buffer: Buffer.from(zipSync(files)) });
  await card.getByText('26 of 26').waitFor({ timeout: 60_000 });
}

function table() {
  const rows = Array.from({ length: 30 }, (_, i) => {
    const what = ['Coil', 'Walk aft', 'Limp', 'Haul, slow'][i % 4];
    return `${i % 2 ? 7 : 8},${i + 1},"${what} number ${i + 1}; wet deck",${i % 2 ? 'walk' : 'rope'}`;
  });
  return ['Subject,Take,Description,Category', 'Ropes on the first day,,,', ...rows].join('\n');
}
for (const stage of stages) stage.kill();
