import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { memberFile } from '../demo/build';
import { CAST } from '../demo/cast';
import { performAll } from '../demo/world';
import { importFile, jointOf, PoseReader, reportOf, retarget, writeBvh } from '../motion/index';
import { amc, asf } from '../motion/test/acclaim';
import { enter } from './people';

// One take, one character, from file to file, on a library that starts empty. The steps build on each other.
test.describe.configure({ mode: 'serial' });

const folder = mkdtempSync(join(tmpdir(), 'velvet-e2e-'));
const file = (name: string): string => join(folder, name);
let page: Page;
const failures: string[] = [];

test.beforeAll(async ({ browser }) => {
  const { actor, performances } = performAll((s) =>
    ['Deck walk', 'Tarred rope haul', 'Wave to shore'].includes(s.name),
  );
  for (const { score, motion } of performances) writeFileSync(file(`${score.name}.bvh`), writeBvh(actor.rig, motion));
  for (const id of ['tove', 'winch'])
    writeFileSync(file(`${id}.glb`), await memberFile(CAST.find((c) => c.id === id)!));
  writeFileSync(file('cut.bvh'), readFileSync(file('Deck walk.bvh'), 'utf8').slice(0, 40_000));
  writeFileSync(file('picture.glb'), 'not a model at all');
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
});
test.afterAll(() => page.close());

const strips = () => page.getByRole('option');

test('whoever comes first makes the first account; an empty library says what to do', async () => {
  await page.goto('/');
  await expect(page).toHaveURL(/\/library$/);
  await expect(page.getByRole('heading', { name: 'The first account' })).toBeVisible();
  await page.getByLabel('Name').fill('Ilse');
  await page.getByLabel('E-mail address').fill('ilse@ferry.example');
  await page.getByLabel(/Password/).fill('short');
  await page.getByRole('button', { name: 'Create it and sign in' }).click();
  // too short: the field says so and nothing is made
  await expect(page.getByRole('heading', { name: 'The first account' })).toBeVisible();
  // nor can anybody make it who has not started the application
  await page.getByLabel(/Password/).fill('the tide is high');
  await page.getByLabel(/Set-up code/).fill('WRONG-CODE');
  await page.getByRole('button', { name: 'Create it and sign in' }).click();
  await expect(page.getByText('The set-up code is wrong', { exact: false })).toBeVisible();
  await enter(page);
  await page.goto('/library');
  await expect(page.getByText('The library is empty')).toBeVisible();
  await page.getByRole('button', { name: 'Bring files in' }).click();
  await expect(page).toHaveURL(/intake/);
});

test('files are brought in; bad ones are refused with place and reason', async () => {
  const names = [
    'Deck walk.bvh',
    'cut.bvh',
    'Tarred rope haul.bvh',
    'picture.glb',
    'Wave to shore.bvh',
    'tove.glb',
    'winch.glb',
  ];
  await page.getByLabel('Choose files').setInputFiles(names.map(file));
  await expect(page.getByText('7 files, 2 refused')).toBeVisible();
  await expect(page.getByText(/cut\.bvh, line \d+: 65 frames of 159 numbers are declared/)).toBeVisible();
  await expect(page.getByText(/although its name ends in \.glb/)).toBeVisible();
  await expect(page.getByText('it was read as centimetres', { exact: false })).toBeVisible();
  await expect(page.getByText('Its skeleton is already in the library', { exact: false }).first()).toBeVisible();
});

test('strips are drawn on the performer, and pointing at one scrubs it on the stage', async () => {
  await page.getByRole('link', { name: 'Library' }).click();
  await expect(strips()).toHaveCount(3);
  await expect(page.locator('[data-strip]')).toHaveCount(3);
  await page.waitForTimeout(1500);
  const drawn = await page
    .locator('[data-strip] canvas')
    .first()
    .evaluate((c: HTMLCanvasElement) => {
      const { data } = c.getContext('2d')!.getImageData(0, 0, c.width, c.height);
      return data.filter((x, i) => i % 4 === 3 && x > 0).length;
    });
  expect(drawn).toBeGreaterThan(2000);
  const box = (await page.locator('[data-strip]').nth(1).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.5, box.y + 40);
  await expect(page.getByRole('img', { name: /Tarred rope haul played by/ })).toBeVisible();
  await expect.poll(() => page.getByLabel('Frame', { exact: true }).inputValue()).toMatch(/^(4[5-9]|5[0-2])$/);
  await page.mouse.move(10, 10);
});

test('an item is renamed, tagged, put in a folder, found, binned and brought back; all can be undone', async () => {
  await strips().filter({ hasText: 'Wave to shore' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Greeting');
  await page.keyboard.press('Enter');
  await expect(strips().filter({ hasText: 'Greeting' })).toBeVisible();
  await page.getByLabel('Tags, separated by commas').fill('hand, Hello');
  await page.keyboard.press('Enter');
  await expect(strips().filter({ hasText: 'hand · hello' })).toBeVisible();
  await page.getByLabel('Folder, levels separated by /').fill('Shore / Quay');
  await page.keyboard.press('Enter');
  await page.getByLabel('Choose a folder').click();
  await page.getByRole('menuitem', { name: 'Quay' }).click();
  await expect(strips()).toHaveCount(1);
  await page.getByRole('button', { name: /2 hidden/ }).click();
  await page.getByRole('combobox', { name: 'Search' }).fill('hello');
  await expect(strips()).toHaveCount(1);
  await page.getByRole('button', { name: 'Clear the search' }).click();
  await expect(strips()).toHaveCount(3);
  await strips().filter({ hasText: 'Greeting' }).click();
  await page.getByRole('button', { name: 'Move to the bin' }).click();
  await expect(strips()).toHaveCount(2);
  await page.keyboard.press('Control+z');
  await expect(strips()).toHaveCount(3);
});

test('the performer is chosen in the cast', async () => {
  await page.getByRole('link', { name: 'Cast' }).click();
  await page.getByRole('region', { name: 'Cast members' }).getByRole('button', { name: /tove/ }).click();
  await expect(page.getByText('centimetres: the body is then', { exact: false })).toBeVisible();
  const take = page.getByRole('button', { name: 'Put on hand' });
  if (await take.isVisible()) await take.click();
  await expect(page.getByRole('button', { name: 'Is on hand' })).toBeVisible();
});

test('a fitting is solved without freezing the page, and measured', async () => {
  await page.getByRole('link', { name: 'Library' }).click();
  await strips().filter({ hasText: 'Deck walk' }).click();
  await page.keyboard.press('f');
  await expect(page).toHaveURL(/fitting\?item=/);
  await expect(page.getByText(/10 plants · worst slip 0\.0 cm/)).toBeVisible();
  await expect(
    page
      .getByText('Everything measured is within bounds', { exact: false })
      .or(page.getByText(/no partner/))
      .first(),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'upper arm L of the target: arm_l, sure. Change' })).toBeVisible();
  // it stands, as these pages ask for less motion, until it is played
  const frame = (): Promise<string> => page.getByLabel('Frame', { exact: true }).inputValue();
  const still = await frame();
  await page.keyboard.press('Space');
  await expect.poll(frame).not.toBe(still);
  await page.keyboard.press('Space');
  const before = await frame();
  await page.keyboard.press('.');
  await expect
    .poll(() => page.getByLabel('Frame', { exact: true }).inputValue())
    .toBe(String((Number(before) + 1) % 65));
});

test('a slot is set by hand, changes the result, and is undone', async () => {
  const cell = page.getByRole('button', { name: /^head of the target: skull/ });
  await cell.click();
  await page.getByRole('button', { name: 'Empty on purpose' }).click();
  await expect(page.getByRole('button', { name: 'head of the target: empty on purpose, empty. Change' })).toBeVisible();
  await expect(page.getByText(/1 empty on purpose/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'head of the target: skull, sure. Change' })).toBeVisible();
});

test('the result is kept with its provenance', async () => {
  await page.getByRole('button', { name: 'Keep as item' }).click();
  await expect(page.getByText(/Deck walk on .* is in the library/)).toBeVisible();
  await page.getByRole('link', { name: 'Library' }).click();
  await expect(strips()).toHaveCount(4);
  await strips().filter({ hasText: / on / }).click();
  await expect(page.getByText(/fitting of Deck walk/)).toBeVisible();
  await expect(page.getByText(/made for/)).toBeVisible();
});

test('the kept result is exported as GLB and BVH and reads back as what was solved', async () => {
  const saved = async (format: 'GLB' | 'BVH', fps?: string): Promise<Uint8Array> => {
    await page.keyboard.press('e');
    await expect(page.getByRole('dialog')).toBeVisible();
    if (format === 'BVH') {
      await page.getByLabel('Format').first().click();
      await page.getByRole('option', { name: /BVH/ }).click();
    }
    if (fps) await page.getByLabel('Frames a second').fill(fps);
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: `Save as ${format}` }).click(),
    ]);
    return new Uint8Array(readFileSync((await download.path())!));
  };
  const take = await importFile(new Uint8Array(readFileSync(file('Deck walk.bvh'))), 'take.bvh');
  const character = await importFile(new Uint8Array(readFileSync(file('tove.glb'))), 'tove.glb');
  const glb = await importFile(await saved('GLB'), 'kept.glb');
  expect(glb.rig.names).toEqual(character.rig.names);
  expect(glb.figure!.meshes.length).toBeGreaterThan(2);
  expect(glb.clips[0]!.motion.frameCount).toBe(65);
  const solved = retarget(take, take.clips[0]!.motion, character);
  const report = reportOf({ ...solved, motion: glb.clips[0]!.motion });
  expect(report.direction.meanDeg).toBeLessThan(3);
  expect(report.slip.maxCm).toBeLessThan(1.2);
  const bvh = await importFile(await saved('BVH', '15'), 'kept.bvh');
  expect(bvh.clips[0]!.motion).toMatchObject({ fps: 15, frameCount: 33 });
});

test('words that the motion suggests are taken over as tags', async () => {
  await strips().filter({ hasText: 'Deck walk' }).first().click();
  await expect(page.getByText(/out of 100 on tove/)).toBeVisible();
  await page.getByRole('button', { name: '+ walk' }).click();
  await expect(strips().filter({ hasText: 'walk' }).first()).toBeVisible();
  await expect(page.getByLabel('Tags, separated by commas')).toHaveValue(/walk/);
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('Tags, separated by commas')).toHaveValue('');
});

test('a change is shown at once and kept as a new item that knows where it comes from', async () => {
  const before = await strips().count();
  await page.keyboard.press('c');
  const panel = page.getByRole('region', { name: 'Change' });
  await panel.getByRole('switch', { name: 'Mirror' }).click();
  await panel.getByLabel('Last frame').fill('33');
  await page.keyboard.press('Enter');
  await expect(panel.getByLabel('Name of the new item')).toHaveValue('Deck walk, frames 1 to 33, mirrored');
  await expect.poll(() => page.getByText('/ 33').count()).toBeGreaterThan(0);
  await panel.getByRole('button', { name: 'Keep as a new item' }).click();
  await expect(strips()).toHaveCount(before + 1);
  await expect(page.getByText('Deck walk: frames 1 to 33, mirrored')).toBeVisible();
});

test('the fitting is tuned, the result follows, and the way back is one click', async () => {
  await page.goto('/fitting');
  await expect(page.getByText(/plants · worst slip/)).toBeVisible();
  const lean = page.getByRole('slider', { name: 'Lean' });
  await lean.focus();
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight');
  await expect(page.getByText('12°')).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
  // whoever opens the link sees the same
  await page.reload();
  await expect(page.getByText('12°')).toBeVisible();
  await page.getByRole('button', { name: 'Reset tuning' }).click();
  await expect(page.getByText('12°')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Reset tuning' })).toHaveCount(0);
});

test('the palette finds places, people and items', async () => {
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder(/Name of an item/).fill('winch');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('contentinfo').getByText('winch')).toBeVisible();
});

test('what moves like an item is found, and one key goes back to everything', async () => {
  await page.goto('/library');
  await expect(strips()).toHaveCount(5);
  await strips().filter({ hasText: 'Deck walk on' }).click();
  await page.keyboard.press('m');
  await expect(page.getByRole('button', { name: /Remove moves like Deck walk on/ })).toBeVisible();
  // itself, then the walk it was made from and that walk's mirror image; rope and wave only behind them
  await expect(strips().nth(0)).toContainText('Deck walk on');
  await expect(strips().nth(1)).toContainText('Deck walk');
  await expect(strips().nth(2)).toContainText('Deck walk');
  await page.keyboard.press('Escape');
  await expect(strips()).toHaveCount(5);
});

test('a motion in two files comes in with its skeleton', async () => {
  writeFileSync(file('ferry.asf'), asf());
  writeFileSync(file('ferry_01.amc'), amc(Array.from({ length: 24 }, (_, f) => `root 0 17 ${f / 4} 0 0 0`)));
  await page.getByRole('link', { name: 'Intake' }).click();
  await page.getByLabel('Choose files').setInputFiles([file('ferry_01.amc'), file('ferry.asf')]);
  await expect(page.getByRole('link', { name: 'ferry_01' })).toBeVisible();
  await expect(page.getByText('24 frames at 120')).toBeVisible();
});

test('a table of bare numbers comes in once somebody has said which columns are which joints', async () => {
  const { actor, performances } = performAll((s) => s.name === 'Deck walk');
  const { rig, map } = actor;
  const slots = ['hips', 'head', 'thighL', 'shinL', 'footL', 'thighR', 'shinR', 'footR'];
  const reader = new PoseReader(rig, performances[0]!.motion);
  const rows = Array.from({ length: 40 }, (_, f) => {
    const { p } = reader.at(f);
    return [f / 30, ...slots.flatMap((s) => [0, 1, 2].map((k) => p[3 * jointOf(map, s) + k]!))].join(',');
  });
  writeFileSync(file('walk of a stranger.csv'), rows.join('\n'));
  await page.getByLabel('Choose files').setInputFiles(file('walk of a stranger.csv'));
  const dialog = page.getByRole('dialog', { name: 'Which columns are which joints?' });
  await expect(dialog.getByText('40 rows of 25 columns', { exact: false })).toBeVisible();
  // the head by pressing its dot, which stands alone; the others from the list
  await dialog.getByRole('button', { name: 'head', exact: true }).click();
  await dialog.getByRole('button', { name: 'columns 5 to 7' }).first().click();
  await expect(dialog.getByRole('combobox', { name: 'Columns of the head' })).toHaveText('columns 5 to 7');
  await expect(dialog.getByText('The hips are needed, or both hip joints.')).toBeVisible();
  await expect(dialog.getByRole('button', { name: 'Bring it in' })).toBeDisabled();
  const words = {
    hips: 2,
    'left hip': 8,
    'left knee': 11,
    'left ankle': 14,
    'right hip': 17,
    'right knee': 20,
    'right ankle': 23,
  };
  for (const [word, first] of Object.entries(words)) {
    await dialog.getByRole('combobox', { name: `Columns of the ${word}` }).click();
    await page.getByRole('option', { name: `columns ${first} to ${first + 2}`, exact: true }).click();
  }
  await dialog.getByRole('button', { name: 'Bring it in' }).click();
  await expect(page.getByRole('link', { name: 'walk of a stranger' })).toBeVisible();
  await expect(page.getByText('40 frames at 30')).toBeVisible();
});

test('nothing broke on the way', () => {
  expect(failures).toEqual([]);
});
