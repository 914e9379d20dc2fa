import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { memberFile } from '../demo/build';
import { CAST } from '../demo/cast';
import { performAll } from '../demo/world';
import { writeBvh } from '../motion/index';
import { moveRoots } from '../motion/tune/place';
import { call, enter } from './people';

// A reel from the first item laid to the item baked from it: joins, overlays, bridges, keys by hand, two at one reel.
test.describe.configure({ mode: 'serial' });

const folder = mkdtempSync(join(tmpdir(), 'velvet-reels-'));
const TAKES = { walk: 'Deck walk', sit: 'Sit on the bollard', look: 'Pointing out the buoy', run: 'Quay run' } as const;
let page: Page;
const failures: string[] = [];
const id: Record<string, string> = {};
/** Under a name of their own: other tests bring the same motions in. */
const called = (take: string): string => `Reel, ${take}`;

interface Placed {
  id: string;
  at: number;
  repeats: number;
  to: number | null;
  from: number;
  join: { kind: string };
}
interface Told {
  content: {
    frames: number;
    members: { id: string; castId: string; base: Placed[]; overlays: { regions: string[] }[]; keys: unknown[] }[];
  };
}
const told = async (): Promise<Told['content']> => (await call<Told>(page, 'GET', `/reels/${id.reel}`)).body.content;

test.beforeAll(async ({ browser }) => {
  const { actor, performances } = performAll((s) => Object.values(TAKES).some((t) => t === s.name));
  const files = performances.map(({ score, motion }) => {
    const path = join(folder, `${called(score.name)}.bvh`);
    // a little aside: what other tests have brought in to the letter would not come in again
    writeFileSync(path, writeBvh(actor.rig, moveRoots({ rig: actor.rig, map: actor.map }, motion, [0.01, 0, 0], 0)));
    return path;
  });
  for (const who of ['tove', 'skerry']) {
    const path = join(folder, `${who} of the reel.glb`);
    writeFileSync(path, await memberFile(CAST.find((c) => c.id === who)!));
    files.push(path);
  }
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
  await enter(page);
  await page.goto('/intake');
  await page.getByLabel('Choose files').setInputFiles(files);
  for (const [key, take] of Object.entries(TAKES)) {
    await expect(page.getByRole('link', { name: called(take) })).toBeVisible();
    const q = encodeURIComponent(`"${called(take)}"`);
    const { items } = (await call<{ items: { id: string; name: string }[] }>(page, 'GET', `/items?q=${q}`)).body;
    id[key] = items.find((i) => i.name === called(take))!.id;
  }
  for (const who of ['tove', 'skerry'])
    await expect(page.getByRole('link', { name: `${who} of the reel` })).toBeVisible();
  const cast = (await call<{ id: string; name: string }[]>(page, 'GET', '/cast')).body;
  for (const who of ['tove', 'skerry']) id[who] = cast.find((c) => c.name === `${who} of the reel`)!.id;
});
test.afterAll(() => page.close());

const lanes = (p = page) => p.getByRole('region', { name: 'Lanes' });
const panel = () => page.getByRole('complementary', { name: 'Reel' });
const stored = () => expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
const tab = (name: string) => panel().getByRole('tab', { name, exact: true }).click();
async function lay(take: keyof typeof TAKES, how: 'behind' | 'over the base' = 'behind'): Promise<void> {
  await tab('Library');
  await panel().getByRole('searchbox').fill(called(TAKES[take]));
  const name = `Lay ${called(TAKES[take])} ${how}`;
  await panel().getByRole('button', { name }).focus();
  await page.keyboard.press('Enter');
}

test('she walks, and sits down where she arrived without a jump', async () => {
  await page.goto('/reels?all=true');
  await page
    .getByRole('button', { name: /New reel|Begin a reel/ })
    .first()
    .click();
  await expect(page).toHaveURL(/reel=/);
  id.reel = new URL(page.url()).searchParams.get('reel')!;
  const name = page.getByLabel('Name of the reel');
  await name.fill('Evening tide');
  await name.press('Enter');
  // whoever is on hand stands on it at first; she takes the place
  const begun = await told();
  const member = { castId: id.tove, order: 2, muted: false };
  await stored();
  const writes = [
    ...begun.members.map((m) => ({ cell: `member/${m.id}`, to: null })),
    { cell: 'member/tove', to: member },
  ];
  expect((await call(page, 'PATCH', `/reels/${id.reel}`, { client: 'bytestofreel', number: 1, writes })).status).toBe(
    200,
  );
  await page.reload();
  await expect(lanes().getByRole('button', { name: 'tove of the reel', exact: true })).toBeVisible();
  await lay('walk');
  await tab('Chosen');
  const times = panel().getByLabel('times');
  await times.fill('3');
  await times.press('Enter');
  await lay('sit');
  const mark = lanes().getByRole('button', { name: /^Join: crossfade/ });
  await expect(mark).toBeVisible();
  await mark.click();
  await expect(panel().getByText('nothing that you would see')).toBeVisible();
  await expect(panel().getByText(/second item moved \d\.\d\d m/)).toBeVisible();
  // feet that stand stay where they stand
  await expect(panel().getByRole('definition').first()).toHaveText('0.00 cm');
  await stored();
  const [tove] = (await told()).members;
  expect(tove!.base.map((p) => [p.repeats, p.join.kind])).toEqual([
    [3, 'crossfade'],
    [1, 'crossfade'],
  ]);
});

test('what they are most alike at is found, and taken by a press', async () => {
  const before = (await told()).members[0]!.base[1]!;
  await panel().getByRole('button', { name: 'Find where they meet best' }).click();
  const pairs = panel().getByRole('button', { name: /% apart$/ });
  await expect(pairs.first()).toHaveAttribute('aria-pressed', 'true');
  await stored();
  const after = (await told()).members[0]!.base[1]!;
  expect([after.at, after.from]).not.toEqual([before.at, before.from]);
  await pairs.nth(1).click();
  await expect(pairs.nth(1)).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await stored();
  expect((await told()).members[0]!.base[1]).toEqual(before);
});

test('she looks out to sea while she walks, for as long as the overlay lasts', async () => {
  await lay('look', 'over the base');
  const over = lanes().getByRole('button', { name: new RegExp(`^${called(TAKES.look)}`) });
  await expect(over).toBeVisible();
  await panel().getByRole('button', { name: 'right arm', exact: true }).click();
  await expect(lanes().getByText('over: head, right arm')).toBeVisible();
  await panel().getByRole('slider', { name: 'strength', exact: true }).press('ArrowLeft');
  await stored();
  expect((await told()).members[0]!.overlays.map((o) => o.regions)).toEqual([['head', 'right arm']]);
});

test('a gap is bridged, and an item moved by a key or a number', async () => {
  const sit = lanes().getByRole('button', { name: new RegExp(`^${called(TAKES.sit)}`) });
  await sit.focus();
  const begins = panel().getByLabel('begins at frame');
  const at = Number(await begins.inputValue());
  await begins.fill(String(at + 40));
  await begins.press('Enter');
  await sit.focus();
  await page.keyboard.press('ArrowRight');
  await expect(begins).toHaveValue(String(at + 41));
  // Space is for time, also where an item has the focus
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Pause', exact: true })).toBeVisible();
  await page.keyboard.press('Space');
  await lanes()
    .getByRole('button', { name: /^Join: decay/ })
    .click();
  await expect(panel().getByText('They do not overlap', { exact: false })).toBeVisible();
  await panel().getByRole('button', { name: 'bridge', exact: true }).click();
  const bridge = lanes().getByRole('button', { name: /^Join: bridge/ });
  await expect(bridge).toBeVisible();
  await expect(panel().getByRole('definition').first()).toHaveText('0.00 cm');
});

test('what is cut in two, copied and removed comes back step by step', async () => {
  const walk = lanes().getByRole('button', { name: new RegExp(`^${called(TAKES.walk)}`) });
  await lay('run');
  await stored();
  const before = await told();
  const run = lanes().getByRole('button', { name: new RegExp(`^${called(TAKES.run)}`) });
  await run.first().focus();
  const { at } = before.members[0]!.base[2]!;
  await page.getByRole('slider', { name: 'Frame', exact: true }).fill(String(at + 20));
  await run.first().focus();
  await page.keyboard.press('s');
  await expect(run).toHaveCount(2);
  await run.last().focus();
  await page.keyboard.press('d');
  await expect(run).toHaveCount(3);
  await page.keyboard.press('Delete');
  await expect(run).toHaveCount(2);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await expect(run).toHaveCount(1);
  await stored();
  expect(await told()).toEqual(before);
  await page.keyboard.press('Control+Shift+z');
  await expect(run).toHaveCount(2);
  await page.keyboard.press('Control+z');
  await expect(walk).toHaveCount(1);
  await page.reload();
  await expect(run).toHaveCount(1);
});

test('a hand is pulled in the stage by the mouse, which sets a key', async () => {
  await tab('By hand');
  await page.getByRole('slider', { name: 'Frame', exact: true }).fill('20');
  await panel().getByRole('button', { name: 'right hand', exact: true }).click();
  await expect(panel().getByText('Nothing is set for the right hand yet.')).toBeVisible();
  const grip = page.getByTestId('held');
  await expect(grip).toBeAttached();
  const set = panel().getByText(/^1 key for the right hand/);
  // a gizmo that has not been drawn yet is not hit: then the view turns, and it is tried where it is now
  await expect(async () => {
    const box = (await grip.boundingBox())!;
    await page.mouse.move(box.x, box.y - 2);
    await page.mouse.move(box.x, box.y, { steps: 4 });
    await page.mouse.down();
    await page.mouse.move(box.x + 30, box.y - 30, { steps: 8 });
    await page.mouse.up();
    await expect(set).toBeVisible({ timeout: 1000 });
  }).toPass();
  await expect(set).toBeVisible();
  await expect(lanes().getByRole('button', { name: 'Keys by hand at frame 21' })).toBeVisible();
  await panel().getByRole('button', { name: 'Only around here' }).click();
  await expect(lanes().getByRole('button', { name: /^Keys by hand/ })).toHaveCount(3);
  await lanes().getByRole('button', { name: 'Keys by hand at frame 21' }).press('ArrowRight');
  await expect(lanes().getByRole('button', { name: 'Keys by hand at frame 22' })).toBeVisible();
});

test('keys are curves: one is dragged by the mouse, a way is bent, and both are taken back', async () => {
  await stored();
  const before = await told();
  await lanes()
    .getByRole('button', { name: /^Show the keys of .* as curves$/ })
    .click();
  const drawing = lanes().getByRole('group', { name: 'Curves of the right hand' });
  await expect(drawing).toBeVisible();
  const dragged = async (what: ReturnType<typeof lanes>, x: number, y: number): Promise<void> => {
    const box = (await what.boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + x, box.y + box.height / 2 + y, { steps: 6 });
    await page.mouse.up();
  };
  const top = drawing.getByRole('slider', { name: 'y of the right hand at frame 22' });
  const was = Number(await top.getAttribute('aria-valuenow'));
  await dragged(top, 0, 20);
  await expect
    .poll(async () =>
      Number(await drawing.getByRole('slider', { name: /^y of .* frame 22$/ }).getAttribute('aria-valuenow')),
    )
    .toBeLessThan(was);
  await dragged(drawing.getByRole('slider', { name: 'Bend after this key' }), 12, 15);
  await expect(lanes().getByText('bent by hand')).toBeVisible();
  await stored();
  expect(await told()).not.toEqual(before);
  for (let i = 0; i < 2; i++) {
    await page.keyboard.press('Control+z');
    await stored();
  }
  expect(await told()).toEqual(before);
  await lanes()
    .getByRole('button', { name: /^Hide the curves of/ })
    .click();
  await expect(drawing).toHaveCount(0);
});

test('a camera is set up from what is seen, moved between two keys, and looked through', async () => {
  await tab('Chosen');
  await page.getByRole('slider', { name: 'Frame', exact: true }).fill('0');
  await stored();
  const before = await told();
  await panel().getByRole('button', { name: 'Camera from this view' }).click();
  await expect(page.getByText('through camera 1')).toBeVisible();
  await page.getByRole('slider', { name: 'Frame', exact: true }).fill('50');
  const stage = (await page.getByRole('img', { name: /^Stage/ }).boundingBox())!;
  await page.mouse.move(stage.x + stage.width / 2, stage.y + stage.height / 3);
  await page.mouse.down();
  await page.mouse.move(stage.x + stage.width / 2 - 120, stage.y + stage.height / 3 - 10, { steps: 5 });
  await page.mouse.up();
  await panel().getByRole('button', { name: 'Set here' }).click();
  await expect(lanes().getByRole('button', { name: /^Key of camera 1/ })).toHaveCount(2);
  await stored();
  const { cameras } = (await told()) as Told['content'] & { cameras: { keys: { frame: number; eye: number[] }[] }[] };
  expect(cameras[0]!.keys.map((k) => k.frame)).toEqual([0, 50]);
  expect(Math.abs(cameras[0]!.keys[0]!.eye[0]! - cameras[0]!.keys[1]!.eye[0]!)).toBeGreaterThan(0.2);
  await lanes().getByRole('button', { name: 'Leave camera 1' }).click();
  await expect(page.getByText('through camera 1')).toHaveCount(0);
  for (let i = 0; i < 2; i++) {
    await page.keyboard.press('Control+z');
    await stored();
  }
  expect(await told()).toEqual(before);
});

test('a pose is tried over what is there, cancelled, tried again, and set as a key', async () => {
  await tab('Library');
  await panel().getByRole('searchbox').fill(called(TAKES.look));
  const begin = panel().getByRole('button', { name: `Try a pose of ${called(TAKES.look)}` });
  await page.getByRole('slider', { name: 'Frame', exact: true }).fill('60');
  await stored();
  const before = await told();
  await begin.focus();
  await page.keyboard.press('Enter');
  const trial = panel().getByRole('region', { name: 'Pose on trial' });
  await expect(trial.getByText(/^\d+ joints at frame 61; left alone: place/)).toBeVisible();
  await trial.getByRole('slider', { name: 'strength' }).press('ArrowLeft');
  await trial.getByRole('button', { name: 'Cancel' }).click();
  await expect(trial).toHaveCount(0);
  expect(await told()).toEqual(before);
  await tab('Library');
  await begin.focus();
  await page.keyboard.press('Enter');
  await trial.getByRole('button', { name: 'right arm', exact: true }).click();
  await trial.getByRole('button', { name: 'right foot', exact: true }).click();
  await trial.getByRole('combobox', { name: 'Mirrored' }).click();
  await page.getByRole('option', { name: 'both sides exchanged' }).click();
  const about = trial.getByRole('group', { name: 'Turns about' });
  await about.getByRole('button', { name: 'y', exact: true }).click();
  await expect(trial.getByText(/left alone: place, turns about y, hips/)).toBeVisible();
  // the body stays, unless it is told to move
  const moves = trial.getByRole('group', { name: 'body moves' });
  await moves.getByRole('button', { name: 'y', exact: true }).click();
  await expect(trial.getByText(/left alone: moves along x and z, turns about y, hips/)).toBeVisible();
  await moves.getByRole('button', { name: 'none' }).click();
  await trial.getByRole('button', { name: 'all three' }).click();
  await expect(trial.getByText(/left alone: place, hips, trunk, head, left arm/)).toBeVisible();
  await trial.getByRole('button', { name: 'Set key' }).click();
  await expect(lanes().getByRole('button', { name: 'Keys by hand at frame 61' })).toBeVisible();
  await stored();
  await page.keyboard.press('Control+z');
  await stored();
  expect(await told()).toEqual(before);
  await page.keyboard.press('Control+Shift+z');
  await expect(lanes().getByRole('button', { name: 'Keys by hand at frame 61' })).toBeVisible();
});

test('all of it is put on another character, and baked into an item that knows where it came from', async () => {
  await lanes().getByRole('button', { name: 'tove of the reel', exact: true }).click();
  await panel().getByRole('combobox', { name: 'Character to copy to' }).click();
  await page.getByRole('option', { name: 'skerry of the reel' }).click();
  await panel().getByRole('button', { name: 'Copy to this character' }).click();
  await expect(lanes().getByRole('button', { name: 'skerry of the reel', exact: true })).toBeVisible();
  await expect(lanes().getByRole('button', { name: /^Join: bridge/ })).toHaveCount(2);
  await panel().getByRole('button', { name: 'Bake into an item' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name').fill('Evening on Skerry');
  await dialog.getByLabel('to frame').fill('90');
  await dialog.getByLabel('to frame').press('Tab');
  await dialog.getByRole('button', { name: 'Bake 90 frames' }).click();
  await page.getByRole('button', { name: 'Show', exact: true }).click();
  await expect(page).toHaveURL(/library\?item=/);
  const item = new URL(page.url()).searchParams.get('item');
  const { body } = await call<{ provenance: { how: string; reelName: string }; facts: { frameCount: number } }>(
    page,
    'GET',
    `/items/${item}`,
  );
  expect(body.facts.frameCount).toBe(90);
  expect(body.provenance).toMatchObject({ how: 'reel', reelName: 'Evening tide' });
  await page.goto(`/library?item=${id.walk}`);
  await page.getByRole('link', { name: 'Evening tide' }).click();
  await expect(lanes()).toBeVisible();
});

test('two who work on one reel see each other’s changes, and each takes back only their own', async ({ browser }) => {
  const noor = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await enter(noor, 'noor');
  for (const p of [page, noor]) {
    await p.goto(`/reels?reel=${id.reel}`);
    await expect(lanes(p).getByRole('button', { name: 'skerry of the reel', exact: true })).toBeVisible();
  }
  await expect(noor.getByText('Ilse has this open as well')).toBeVisible();
  // where one stands in time, the other sees
  await page.getByRole('slider', { name: 'Frame', exact: true }).focus();
  await page.keyboard.press('Home');
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await expect(lanes(noor).getByRole('img', { name: 'Ilse is at frame 5' })).toBeVisible();
  await lanes(page).getByRole('button', { name: 'Hide tove of the reel' }).click();
  await lanes(noor).getByRole('button', { name: 'Hide skerry of the reel' }).click();
  const hidden = (p: Page, who: string) => lanes(p).getByRole('button', { name: `Show ${who} of the reel` });
  for (const p of [page, noor]) for (const who of ['tove', 'skerry']) await expect(hidden(p, who)).toBeVisible();
  await page.keyboard.press('Control+z');
  for (const p of [page, noor]) {
    await expect(hidden(p, 'tove')).toHaveCount(0);
    await expect(hidden(p, 'skerry')).toBeVisible();
  }
  await noor.context().close();
});

test('whoever may only look plays the reel and changes nothing', async ({ browser }) => {
  const teo = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await enter(teo, 'teo');
  await teo.goto(`/reels?reel=${id.reel}`);
  await expect(teo.getByText('you can try things here; nothing is saved')).toBeVisible();
  await expect(lanes(teo).getByRole('button', { name: 'Add a cast member' })).toHaveCount(0);
  await teo.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(teo.getByRole('button', { name: 'Pause', exact: true })).toBeVisible();
  await teo.context().close();
});

test('a reel goes to the bin and comes back', async () => {
  await page.goto('/reels?all=true');
  await page.getByRole('button', { name: 'Move Evening tide to the bin' }).click();
  await expect(page.getByRole('button', { name: /^Evening tide/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Bin', exact: true }).click();
  await page.getByRole('button', { name: 'Bring back Evening tide' }).click();
  await page.getByRole('button', { name: 'Back to the reels' }).click();
  await expect(page.getByRole('button', { name: /^Evening tide/ })).toBeVisible();
});

test('nothing broke on the way', () => {
  expect(failures).toEqual([]);
});
