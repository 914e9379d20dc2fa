import { expect, type Page, test } from '@playwright/test';
import { call, enter } from './people';
import { addStandIn, bringIn, swayingFile } from './walkers';

// A play-through: built from items, played by keys and by a gamepad, handed over and carried to another character.
test.describe.configure({ mode: 'serial' });

let page: Page;
const failures: string[] = [];
const ITEMS = ['Play stand', 'Play nod'];

test.beforeAll(async ({ browser }) => {
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
  // a gamepad whose buttons the test presses
  await page.addInitScript(() => {
    const pad = {
      connected: true,
      axes: [0, 0],
      buttons: Array.from({ length: 4 }, () => ({ pressed: false })),
    };
    (window as unknown as { pad: typeof pad }).pad = pad;
    navigator.getGamepads = () => [pad as unknown as Gamepad];
  });
  await enter(page);
  const player = await addStandIn(page, 'Player');
  await addStandIn(page, 'Second player', 1.5);
  await bringIn(page, [swayingFile(ITEMS[0]!, 'chest'), swayingFile(ITEMS[1]!, 'head')]);
  await call(page, 'PATCH', '/me', { performerId: player });
});

test.afterAll(async () => {
  expect(failures).toEqual([]);
  await page.close();
});

const board = (name: RegExp) => page.getByRole('button', { name });
const plays = (name: string) => expect(board(new RegExp(`^State ${name}.*playing$`))).toBeVisible();

test('items become states, ways are drawn, and what is missing is told', async () => {
  await page.goto('/reels?all=true');
  await page.getByRole('button', { name: 'New play-through' }).click();
  await expect(page.getByText('No states yet')).toBeVisible();
  for (const name of ITEMS) {
    await page.getByLabel('Item for a new state').fill(name);
    await page.locator('aside button[aria-pressed]', { hasText: name }).first().click();
    await expect(board(new RegExp(`^State ${name}`))).toBeVisible();
    await page.keyboard.press('Escape');
  }
  await expect(page.getByRole('button', { name: 'Nothing leads out of Play stand.' })).toBeVisible();
  await page.getByRole('button', { name: '+ pressed' }).click();
  await expect(page.getByRole('button', { name: /^Key of Press 1: W/ })).toBeVisible();
  await board(/^State Play stand/).click();
  await page.getByLabel('Add a way to').click();
  await page.getByRole('option', { name: 'Play nod' }).click();
  await expect(board(/^Way to Play nod: Press 1 pressed$/)).toBeVisible();
  await board(/^State Play nod/).click();
  if ((await page.getByRole('switch', { name: 'Goes round and round' }).getAttribute('aria-checked')) === 'true')
    await page.getByRole('switch', { name: 'Goes round and round' }).click();
  await page.getByLabel('Add a way to').click();
  await page.getByRole('option', { name: 'Play stand' }).click();
  await page.getByRole('combobox', { name: 'Condition 1' }).click();
  await page.getByRole('option', { name: 'the end is reached' }).click();
  await expect(page.getByRole('region', { name: 'What is missing' })).toHaveCount(0);
});

test('keys and a gamepad take the ways; the end leads back', async () => {
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await plays('Play stand');
  await page.keyboard.press('KeyW');
  await plays('Play nod');
  await plays('Play stand');
  // the same with a button of a gamepad
  await page.getByRole('button', { name: /^Press 1/ }).click();
  await page.getByLabel('Button of a gamepad (−1: none)').fill('2');
  await page.getByLabel('Button of a gamepad (−1: none)').press('Enter');
  await plays('Play stand');
  await page.evaluate(() => {
    (window as unknown as { pad: { buttons: { pressed: boolean }[] } }).pad.buttons[2]!.pressed = true;
  });
  await plays('Play nod');
  await plays('Play stand');
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
});

test('it is carried to another character, whose copy plays, too', async () => {
  await page.getByRole('button', { name: 'Carry it to another character' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Character to carry it to').click();
  await page.getByRole('option', { name: 'Second player' }).click();
  await dialog.getByRole('textbox').first().fill('Carried over');
  await expect(dialog.getByText('Play nod on Second player')).toBeVisible();
  await dialog.getByRole('button', { name: /^Carry 2 items/ }).click();
  await page.getByRole('button', { name: 'All reels and play-throughs' }).click();
  await page
    .getByRole('button', { name: /Carried over/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await plays('Play stand');
});

test('it is handed over in one archive', async () => {
  const loads = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export as JSON, SCXML and GLB' }).click();
  expect((await loads).suggestedFilename()).toBe('Carried over.zip');
});
