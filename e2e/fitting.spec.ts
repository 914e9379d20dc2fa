import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { memberFile } from '../demo/build';
import { CAST } from '../demo/cast';
import { performAll } from '../demo/world';
import { importFile, writeBvh } from '../motion/index';
import { call, enter } from './people';

// Motions onto characters: the main path, a wrong map put right, plants and corrections by hand, whole folders, and back.
test.describe.configure({ mode: 'serial' });

const folder = mkdtempSync(join(tmpdir(), 'velvet-fitting-'));
const file = (name: string): string => join(folder, name);
const TAKES = ['Limp after a stubbed toe', 'Sidestep along the rail', 'Backing off from the winch'];
let page: Page;
const failures: string[] = [];
const id: Record<string, string> = {};

interface Listed {
  items: { id: string; name: string; folderId: string | null; versions: number }[];
}
const listed = async (q: string): Promise<Listed['items']> =>
  (await call<Listed>(page, 'GET', `/items?q=${encodeURIComponent(q)}&limit=200`)).body.items;

test.beforeAll(async ({ browser }) => {
  const { actor, performances } = performAll((s) => TAKES.includes(s.name));
  for (const { score, motion } of performances) writeFileSync(file(`${score.name}.bvh`), writeBvh(actor.rig, motion));
  for (const who of ['skerry', 'pip'])
    writeFileSync(file(`${who}.glb`), await memberFile(CAST.find((c) => c.id === who)!));
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
  await enter(page);
  await page.goto('/intake');
  await page
    .getByLabel('Choose files')
    .setInputFiles([...TAKES.map((t) => file(`${t}.bvh`)), file('skerry.glb'), file('pip.glb')]);
  await expect(page.getByRole('link', { name: 'pip' })).toBeVisible();
  for (const t of TAKES) {
    await expect(page.getByRole('link', { name: t })).toBeVisible();
    const found = (await listed(`"${t}"`)).find((i) => i.name === t)!;
    id[t] = found.id;
    await call(page, 'PATCH', `/items/${found.id}`, { change: { folder: 'Ferry / Rail' } });
  }
  const cast = (await call<{ id: string; name: string }[]>(page, 'GET', '/cast')).body;
  for (const who of ['skerry', 'pip']) id[who] = cast.find((c) => c.name === who)!.id;
});
test.afterAll(() => page.close());

const lanes = () => page.getByRole('region', { name: 'Trouble lanes' });
const open = async (take: string, who: string, pane = 'trouble'): Promise<void> => {
  await page.goto(`/fitting?item=${id[take]}&cast=${id[who]}&pane=${pane}`);
  await expect(page.getByText(/plants · worst slip/)).toBeVisible();
};
const stored = () => expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();

test('a motion stands on another body with everything measured', async () => {
  await open('Limp after a stubbed toe', 'skerry');
  await expect(page.getByText(/^score \d+$/)).toBeVisible();
  await expect(page.getByText(/worst slip 0\.\d cm/)).toBeVisible();
  await expect(lanes()).toBeVisible();
  await page.getByRole('button', { name: 'Side by side: overlay' }).click();
  await expect(page).toHaveURL(/over=true/);
  await page.keyboard.press('y');
  await page.keyboard.press('g');
  await expect(page.getByRole('button', { name: 'Trails of hands, feet and hips' })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await expect(page.getByRole('button', { name: 'Poses before and after' })).toHaveAttribute('aria-pressed', 'true');
});

test('a setting shows what differs, is stored, and goes along to the next source', async () => {
  await page.getByRole('button', { name: 'travel x', exact: true }).click();
  await page.getByLabel('Hips lower').focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await expect(page.getByText('2.0 %')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Reset not taken from the source' })).toBeVisible();
  await stored();
  await page.getByLabel('Motion').click();
  await page.getByRole('option', { name: 'Sidestep along the rail' }).click();
  await expect(page).toHaveURL(new RegExp(id['Sidestep along the rail']!));
  await expect(page.getByText('2.0 %')).toBeVisible();
  // the former pair has kept them, too
  await page.goto(`/fitting?item=${id['Limp after a stubbed toe']}&cast=${id.skerry}`);
  await expect(page.getByText('2.0 %')).toBeVisible();
  await page.getByRole('button', { name: 'Reset hips lower' }).click();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('2.0 %')).toBeVisible();
  await page.getByRole('button', { name: 'Reset hips lower' }).click();
  await page.getByRole('button', { name: 'Reset not taken from the source' }).click();
  await stored();
});

test('a wrong map shows in the trouble, is put right in the stage, and the result follows', async () => {
  await open('Limp after a stubbed toe', 'pip');
  const rig = (await call<{ map: { slots: Record<string, { joint: string }> } }>(page, 'GET', `/cast/${id.pip}/rig`))
    .body;
  const [left, right] = [rig.map.slots.forearmL!.joint, rig.map.slots.forearmR!.joint];
  const cell = (joint: string) => page.getByRole('button', { name: new RegExp(`^forearm L of the target: ${joint}`) });
  const wrong = lanes().getByText(`in the target’s map the forearm L is ${right}`, { exact: false });
  await cell(left).click();
  await page.getByLabel('Joint name').fill(right);
  await page.keyboard.press('Enter');
  await expect(cell(right)).toBeVisible();
  await expect(page.getByText(/1 missing/)).toBeVisible();
  await expect(wrong).toBeVisible();
  // the other side now lacks its joint: told on the outside, not hidden
  await expect(page.getByRole('button', { name: /^forearm R of the target: missing/ })).toBeVisible();
  await cell(right).click();
  await page.getByRole('button', { name: /in the stage/ }).click();
  const sheet = page.getByTestId('joint-picker');
  await expect(sheet).toBeVisible();
  // every joint that can be picked is marked; where several lie on each other they are offered
  const dot = (await sheet.getByRole('button', { name: left, exact: true }).boundingBox())!;
  await page.mouse.move(dot.x + 4, dot.y + 4);
  await page.mouse.down();
  await page.mouse.up();
  const choice = page.getByRole('menuitem', { name: left, exact: true });
  if (await choice.isVisible()) await choice.click();
  await expect(cell(left)).toBeVisible();
  await page.getByRole('button', { name: 'More map actions' }).click();
  await page.getByRole('group').nth(1).getByRole('menuitem', { name: 'Fill the right side from the left' }).click();
  await expect(page.getByRole('button', { name: new RegExp(`^forearm R of the target: ${right}`) })).toBeVisible();
  await expect(wrong).toHaveCount(0);
  await expect(lanes().getByText(/in the target’s map/)).toHaveCount(0);
  // all of that has arrived
  const kept = async () =>
    (await call<{ map: { slots: Record<string, { joint: string }> } }>(page, 'GET', `/cast/${id.pip}/rig`)).body.map;
  await expect.poll(async () => (await kept()).slots.forearmR!.joint).toBe(right);
  // a page left in the moment of a change has written it all the same
  const head = page.getByRole('button', { name: /^head of the target/ });
  await head.click();
  await page.getByRole('button', { name: 'Empty on purpose' }).evaluate((button: HTMLElement) => {
    button.click();
    location.reload();
  });
  await page.waitForLoadState();
  await expect(head).toHaveAccessibleName(/empty on purpose/);
  await head.click();
  await page.getByLabel('Joint name').fill(rig.map.slots.head!.joint);
  await page.keyboard.press('Enter');
  await expect(head).not.toHaveAccessibleName(/empty/);
});

test('a map is saved as a profile that says where it serves', async () => {
  await page.getByRole('button', { name: 'More map actions' }).click();
  await page
    .getByRole('group')
    .nth(1)
    .getByRole('menuitem', { name: /Save this map/ })
    .click();
  await page.getByRole('dialog').getByLabel('Name').fill('Small crew');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('Saved the map as Small crew')).toBeVisible();
  await page.getByRole('button', { name: 'More map actions' }).click();
  await page
    .getByRole('group')
    .nth(1)
    .getByRole('menuitem', { name: /Apply a profile/ })
    .click();
  await expect(page.getByRole('dialog').getByText(/serves pip/)).toBeVisible();
  await page.keyboard.press('Escape');
});

test('plants are moved, added, pinned and taken away; those found come back', async () => {
  await open('Limp after a stubbed toe', 'skerry', 'plants');
  const lane = page.getByTestId('plants-heelL');
  const bars = lane.getByRole('button');
  const n = await bars.count();
  expect(n).toBeGreaterThan(1);
  const bar = (await bars.nth(1).boundingBox())!;
  const name = await bars.nth(1).getAttribute('aria-label');
  await page.mouse.move(bar.x + bar.width - 2, bar.y + 8);
  await page.mouse.down();
  await page.mouse.move(bar.x + bar.width + 14, bar.y + 8, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByText(/\d+ set by hand/)).toBeVisible();
  await expect(bars.nth(1)).not.toHaveAttribute('aria-label', name!);
  await page.getByRole('button', { name: 'Pin to its spot' }).click();
  const spot = page.getByLabel('Spot x, metres');
  const x = Number(await spot.inputValue());
  await spot.fill(String(x + 0.1));
  await page.keyboard.press('Enter');
  await expect(bars.nth(1)).toHaveAttribute('aria-label', /pinned/);
  await bars.nth(1).focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await page.keyboard.press('Delete');
  await expect(bars).toHaveCount(n - 1);
  await page.keyboard.press('Control+z');
  await expect(bars).toHaveCount(n);
  await stored();
  // a colleague who opens the link sees the same
  await page.reload();
  await expect(page.getByText(/\d+ set by hand/)).toBeVisible();
  await page.getByRole('button', { name: 'Back to plants as found' }).click();
  await expect(page.getByText(/\d+ found/)).toBeVisible();
});

test('a handle is dragged in the stage by the mouse: one key, one step to undo and redo', async () => {
  await open('Sidestep along the rail', 'skerry', 'hand');
  await page.getByRole('button', { name: 'left hand' }).click();
  const held = page.getByTestId('held');
  await expect(held).toBeAttached();
  const at = async () => (await held.boundingBox())!;
  // the gizmo stands once the figure has been drawn where it is
  await expect(async () => expect((await at()).y).toBeGreaterThan(60)).toPass();
  const keys = page.getByRole('button', { name: /Key of the left hand at frame/ });
  let from = 0;
  // a gizmo that has not been drawn yet is not hit: then the view turns, and it is tried where it is now
  await expect(async () => {
    const { x, y } = await at();
    from = y;
    await page.mouse.move(x - 9, y + 9);
    await page.mouse.move(x, y, { steps: 5 });
    await page.mouse.down();
    await page.mouse.move(x + 24, y - 32, { steps: 8 });
    await page.mouse.up();
    await expect(keys).toHaveCount(1, { timeout: 5000 });
  }).toPass();
  await stored();
  // the hand has followed
  await expect(async () => expect((await at()).y).toBeLessThan(from - 12)).toPass();
  await page.keyboard.press('Control+z');
  await expect(keys).toHaveCount(0);
  await page.keyboard.press('Control+Shift+z');
  await expect(keys).toHaveCount(1);
  await stored();
});

test('two who work on one fitting see each other’s changes, and each takes back only their own', async ({
  browser,
}) => {
  const noor = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await enter(noor, 'noor');
  const at = `/fitting?item=${id['Sidestep along the rail']}&cast=${id.pip}`;
  for (const p of [page, noor]) {
    await p.goto(at);
    await expect(p.getByText(/plants · worst slip/)).toBeVisible();
  }
  const limits = (p: Page) => p.getByRole('switch', { name: 'Keep joint limits' });
  const clear = (p: Page) => p.getByRole('switch', { name: 'Keep limbs out of one another' });
  await limits(page).click();
  await clear(noor).click();
  for (const p of [page, noor]) {
    await expect(limits(p)).toBeChecked();
    await expect(clear(p)).not.toBeChecked();
  }
  await page.keyboard.press('Control+z');
  for (const p of [page, noor]) {
    await expect(limits(p)).not.toBeChecked();
    await expect(clear(p)).not.toBeChecked();
  }
  // off line: what is set is kept and saved once the server is reached again
  await noor.context().setOffline(true);
  await limits(noor).click();
  await expect(noor.getByText('The server cannot be reached.', { exact: false })).toBeVisible();
  await clear(page).click();
  await noor.context().setOffline(false);
  for (const p of [page, noor]) {
    await expect(limits(p)).toBeChecked();
    await expect(clear(p)).toBeChecked();
  }
  await noor.context().close();
});

test('a correction by hand is set in the stage, keyed, and kept through another solve', async () => {
  await open('Limp after a stubbed toe', 'skerry', 'hand');
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: 'left hand' }).click();
  const put = await call(page, 'PUT', `/cast/${id.skerry}/fittings/${id['Limp after a stubbed toe']}`, {
    settings: {},
    edits: {
      frames: 20,
      plants: null,
      goals: [],
      looks: [],
      corrections: [{ handle: 'handL', keys: [{ frame: 5, move: [0, 0.2, 0.1] }] }],
    },
    version: (
      await call<{ version: number }>(page, 'GET', `/cast/${id.skerry}/fittings/${id['Limp after a stubbed toe']}`)
    ).body.version,
  });
  expect(put.status).toBe(200);
  await page.reload();
  await expect(page.getByRole('button', { name: /Key of the left hand at frame/ })).toBeVisible();
  await page.getByRole('button', { name: /Key of the left hand/ }).click();
  await page.getByRole('button', { name: 'Only around this frame' }).click();
  await expect(page.getByRole('button', { name: /Key of the left hand/ })).toHaveCount(3);
  await page.keyboard.press('5');
  await expect(page.getByRole('img', { name: /turn from rest/ })).toBeVisible();
  await page.keyboard.press('4');
  await page.getByRole('button', { name: /Remove all corrections of the left hand/ }).click();
  await expect(page.getByRole('button', { name: /Key of the left hand/ })).toHaveCount(0);
});

test('what is wrong is mended by an offer that is tried first', async () => {
  await open('Limp after a stubbed toe', 'skerry');
  await page.getByRole('switch', { name: 'Hold soles' }).click();
  const row = lanes()
    .getByRole('listitem')
    .filter({ hasText: /slides/ })
    .first();
  await expect(row).toBeVisible();
  await row.getByRole('button', { name: /^Mend/ }).click();
  const offer = row.getByRole('listitem').filter({ hasText: 'Hold planted soles in place' });
  await offer.getByRole('button', { name: 'Try' }).click();
  await expect(page.getByText('Trying: Hold planted soles in place')).toBeVisible();
  await page.getByRole('button', { name: 'Take' }).first().click();
  await expect(page.getByRole('switch', { name: 'Hold soles' })).toHaveAttribute('aria-checked', 'true');
  await expect(lanes().getByText(/slides/)).toHaveCount(0);
  await page.getByRole('button', { name: 'Before', exact: true }).click();
  await expect(
    lanes()
      .getByText(/slides/)
      .first(),
  ).toBeVisible();
  await page.keyboard.press('b');
});

test('a whole folder goes onto two characters in one job; the worst stand first and are done again', async () => {
  await page.getByRole('button', { name: 'Many …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('switch', { name: /Everything in Ferry \/ Rail/ }).click();
  await dialog.getByLabel('pip').check();
  await dialog.getByLabel(/^Names/).fill('{character} does {item}');
  await dialog.getByRole('button', { name: /Fit onto/ }).click();
  await page.getByRole('button', { name: 'Report' }).click();
  await expect(page).toHaveURL(/intake\?job=/);
  await expect(page.getByRole('main').getByText('6 of 6')).toBeVisible();
  await expect(page.getByRole('link', { name: 'skerry does Limp after a stubbed toe' })).toBeVisible();
  // the count is told before the rows are asked for again
  const shown = page.locator('td [title^="Score"]');
  await expect(shown).toHaveCount(6);
  const scores = (await shown.allTextContents()).map(Number);
  expect(scores).toEqual([...scores].sort((a, b) => a - b));
  await page.getByLabel(/^Choose Limp after a stubbed toe on pip/).check();
  await page.getByRole('button', { name: 'Do 1 again …' }).click();
  await page.getByRole('switch', { name: 'Keep arms and head within joint limits' }).click();
  await page.getByRole('button', { name: 'Make them again' }).click();
  await expect
    .poll(async () => (await listed('"pip does Limp"')).find((i) => i.name.startsWith('pip does'))?.versions)
    .toBe(2);
});

test('a fitting whose map was changed is out of date until it is fitted again', async () => {
  const kept = (await listed('"skerry does Sidestep"')).find((i) => i.name.startsWith('skerry does'))!;
  const rig = (
    await call<{ id: string; mapVersion: number; map: { slots: Record<string, object> } }>(
      page,
      'GET',
      `/cast/${id.skerry}/rig`,
    )
  ).body;
  const slots = { ...rig.map.slots, head: { joint: null, state: 'empty', why: 'empty on purpose' } };
  await call(page, 'PUT', `/rigs/${rig.id}/map`, { map: { slots }, version: rig.mapVersion });
  await page.goto(`/library?item=${kept.id}`);
  await expect(page.getByText(/Out of date: the body map of skerry was changed/)).toBeVisible();
  await page.goto(`/cast?member=${id.skerry}&tab=made`);
  await expect(page.getByText(/3 of 3 are out of date/)).toBeVisible();
  await page.getByRole('button', { name: 'Fit all of them again' }).click();
  await expect(page.getByText(/out of date/)).toHaveCount(0);
  await call(page, 'PUT', `/rigs/${rig.id}/map`, { map: { slots: rig.map.slots }, version: rig.mapVersion + 1 });
});

test('the cast page: readiness, proportions, a pose for matching and back, pairs, limits, a safe copy', async () => {
  await page.goto(`/cast?member=${id.skerry}`);
  await expect(page.getByText('The foot does not roll over its toes')).toBeVisible();
  await page.getByRole('tab', { name: 'Body' }).click();
  await expect(page.getByText('forearm', { exact: true })).toBeVisible();
  await page.getByRole('tab', { name: /Rest pose/ }).click();
  await page.getByRole('button', { name: 'the left arm' }).click();
  await expect(page.getByText(/A matching pose is set: the left arm/)).toBeVisible();
  await page.getByRole('button', { name: 'Back to the bind pose' }).click();
  await expect(page.getByText(/Limbs are matched from the rest pose/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/A matching pose is set/)).toBeVisible();
  await page.getByRole('button', { name: 'Back to the bind pose' }).click();
  await page.getByRole('tab', { name: 'Sides' }).click();
  await expect(page.getByText(/\d+ left, \d+ right/)).toBeVisible();
  await page.getByRole('button', { name: 'left arm' }).click();
  await page.getByLabel('Name of the new set').fill('Waving arm');
  await page.getByRole('button', { name: /^Keep/ }).click();
  await expect(page.getByText('Waving arm', { exact: true })).toBeVisible();
  await page.getByRole('tab', { name: 'Limits' }).click();
  await page.getByLabel('Swing of head').fill('40');
  await page.keyboard.press('Enter');
  await expect(page.getByText('It has its own limits', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Copy' }).click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('skerry, copy');
  await page.getByRole('tab', { name: 'Sides' }).click();
  await expect(page.getByText('Waving arm')).toBeVisible();
  await page.getByRole('button', { name: 'Delete the set Waving arm' }).click();
  await expect(page.getByText('Waving arm', { exact: true })).toHaveCount(0);
  await page.goto(`/cast?member=${id.skerry}&tab=sides`);
  await expect(page.getByText('Waving arm')).toBeVisible();
});

test('another file takes a character’s place after its report, and goes again', async () => {
  const other = await memberFile(CAST.find((c) => c.id === 'pip')!);
  writeFileSync(file('other.glb'), other);
  await page.goto(`/cast?member=${id.skerry}`);
  await page.getByRole('button', { name: 'Replace' }).click();
  await page.getByLabel('New file').setInputFiles(file('other.glb'));
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('Joints removed')).toBeVisible();
  await expect(
    dialog.getByText(/(Made for it so far|has been made for this character|was made for this character)/),
  ).toBeVisible();
  await dialog.getByRole('button', { name: 'Replace', exact: true }).click();
  await expect(page.getByText(/skerry has a new file/)).toBeVisible();
  const rigOf = async (): Promise<string> =>
    (await call<{ rigId: string }>(page, 'GET', `/cast/${id.skerry}`)).body.rigId;
  const now = await rigOf();
  await page.keyboard.press('Control+z');
  await expect.poll(rigOf).not.toBe(now);
});

test('a stand-in joins, its joints are tried, and it goes out as a file with what was made for it', async () => {
  await page.goto('/cast');
  await page.getByRole('button', { name: 'Add a stand-in' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name').fill('Deckhand');
  await dialog.getByRole('radio', { name: /A-pose/ }).check();
  await dialog.getByRole('button', { name: 'Add to the cast' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('Deckhand');
  await expect(page.getByText('A: arms slanting')).toBeVisible();
  await page.keyboard.press('t');
  await expect(page.getByText('the head looks to either side')).toBeVisible();
  await expect(page.getByText('the left arm rises, elbow and wrist bend')).toBeVisible();
  await page.keyboard.press('t');
  await expect(page.getByText(/elbow and wrist bend/)).toHaveCount(0);
  const castId = new URL(page.url()).searchParams.get('member')!;
  const made = await call(page, 'POST', '/fittings', {
    itemId: id['Sidestep along the rail'],
    castId,
    settings: {},
    name: 'Deckhand sidesteps',
  });
  expect(made.status).toBe(200);
  await page.getByRole('button', { name: 'Export' }).click();
  await expect(dialog.getByText('Motion in it: 1 of 1')).toBeVisible();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    dialog.getByRole('button', { name: 'Save the file' }).click(),
  ]);
  const back = await importFile(readFileSync((await download.path())!), 'Deckhand.glb');
  expect(back.clips.map((c) => c.name)).toEqual(['Deckhand sidesteps']);
  expect(back.rig.names).toContain('hips');
});

test('a set of joints begins with what a stored item holds', async () => {
  await page.goto(`/cast?member=${id.pip}&tab=sides`);
  await page.getByText('Take the joints of an item').click();
  await page.getByRole('searchbox', { name: 'Item to take the joints from' }).fill('Limp');
  // what is pressed must not move away under the mouse when the others go
  const found = page.getByRole('group').filter({ hasText: 'Take the joints of an item' }).getByRole('button');
  await expect(found.filter({ hasNotText: 'Limp' })).toHaveCount(0);
  await found
    .filter({ hasText: /^Limp after a stubbed toe/ })
    .first()
    .click();
  await expect(page.getByText(/(every joint that|but moved in) Limp after a stubbed toe/)).toBeVisible();
  await page.getByRole('button', { name: /^Keep \d+/ }).click();
  await expect(page.getByRole('button', { name: 'Delete the set Limp after a stubbed toe' })).toBeVisible();
});

test('a destination remembers how files go there', async () => {
  await open('Backing off from the winch', 'pip');
  await page.keyboard.press('e');
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Destination').fill('Wharf edit');
  await dialog.getByLabel('Format').first().click();
  await page.getByRole('option', { name: /BVH/ }).click();
  await dialog.getByLabel('Frames a second').fill('24');
  await dialog.getByRole('button', { name: 'Remember it' }).click();
  await expect(dialog.getByText(/Set as remembered for Wharf edit: BVH, 24 frames a second/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('e');
  await page.getByRole('dialog').getByLabel('Destination').fill('Wharf edit');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save as BVH' }).click(),
  ]);
  const back = await importFile(new Uint8Array(readFileSync((await download.path())!)), 'kept.bvh');
  expect(back.clips[0]!.motion.fps).toBeCloseTo(24, 3);
});

test('whoever may only look can try settings without storing them', async ({ browser }) => {
  const viewer = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await enter(viewer, 'teo');
  await viewer.goto(`/fitting?item=${id['Backing off from the winch']}&cast=${id.pip}`);
  await expect(viewer.getByText(/plants · worst slip/)).toBeVisible();
  await viewer.getByRole('switch', { name: 'Hold soles' }).click();
  await expect(viewer.getByRole('button', { name: 'Reset plants' })).toBeVisible();
  await viewer.waitForTimeout(1200);
  const kept = await call<{ version: number }>(
    viewer,
    'GET',
    `/cast/${id.pip}/fittings/${id['Backing off from the winch']}`,
  );
  expect(kept.body.version).toBe(0);
  const put = await call(viewer, 'PUT', `/cast/${id.pip}/fittings/${id['Backing off from the winch']}`, {
    settings: {},
    edits: { frames: 0, plants: null, goals: [], looks: [], corrections: [] },
    version: 0,
  });
  expect(put.status).toBe(403);
  await viewer.close();
});

test('nothing broke on the way', () => {
  expect(failures).toEqual([]);
});
