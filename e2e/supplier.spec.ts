import { type ChildProcess, spawn } from 'node:child_process';
import { expect, type Page, test } from '@playwright/test';
import { call, enter } from './people';

// A supplier's catalogue from the first look to a corrected issue, with a fifth of all answers broken on the way.
test.describe.configure({ mode: 'serial' });

const ADDRESS = 'http://127.0.0.1:4730';
const KEY = 'key-of-the-tests';
let page: Page;
let supplier: ChildProcess;
const failures: string[] = [];

const control = (path: string, body: unknown): Promise<Response> =>
  fetch(`${ADDRESS}/stand-in/${path}`, { method: 'POST', body: JSON.stringify(body) });
/** What the account has left; asked until an answer is whole. */
async function credits(): Promise<number> {
  for (;;) {
    try {
      const answer = await fetch(`${ADDRESS}/account`, { headers: { authorization: `Bearer ${KEY}` } });
      if (answer.ok) return ((await answer.json()) as { credits: number }).credits;
    } catch {
      // one of the broken ones
    }
  }
}

test.beforeAll(async ({ browser }) => {
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
  await enter(page);
  const { id } = (
    await call<{ id: string }>(page, 'POST', '/cast/stand-in', { name: 'Buyer', rest: 'A', heightM: 1.75 })
  ).body;
  await call(page, 'PATCH', '/me', { performerId: id });
});

test.afterAll(async () => {
  supplier?.kill('SIGKILL');
  expect(failures).toEqual([]);
  await page.close();
});

/** Gives a key until what comes of it is told: an answer may be broken as often as it is asked for. */
async function link(key: string, told: string | RegExp): Promise<void> {
  await expect(async () => {
    await page.getByLabel('Key of the account').fill(key, { timeout: 5000 });
    await page.getByRole('button', { name: 'Link', exact: true }).click({ timeout: 5000 });
    await expect(page.getByText(told)).toBeVisible({ timeout: 15_000 });
  }).toPass();
}

test('a supplier that is away is told, and comes by itself when it is there', async () => {
  await page.goto('/intake');
  await page.getByRole('button', { name: 'From a supplier …' }).click();
  await expect(page.getByText('The supplier does not answer')).toBeVisible();
  supplier = spawn(
    process.execPath,
    [
      'cli/velvet-reel.mjs',
      'supplier',
      '--key',
      KEY,
      '--takes',
      '30',
      '--credits',
      '60',
      '--faults',
      '20',
      '--slow',
      '200',
    ],
    { stdio: 'ignore' },
  );
  await expect(page.getByRole('heading', { name: 'The Halyard Exchange' })).toBeVisible();
  await link('wrong key', /does not belong to an account/);
  await link(KEY, 'Nothing is owned yet.');
});

test('a take is narrowed to, seen on the performer, bought once and brought in', async () => {
  await page.getByLabel('Find in the catalogue').fill('rope haul');
  const card = page.getByRole('button', { name: /Tarred rope haul/ });
  await expect(card).toHaveCount(1);
  await card.click();
  const aside = page.getByRole('complementary', { name: 'The chosen take' });
  await expect(aside.getByText(/1 \/ 3[01]/)).toBeVisible();
  const before = await credits();
  await aside.getByRole('button', { name: /^Buy for/ }).click();
  await expect(page.getByRole('dialog')).toContainText('A purchase cannot be undone');
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Buy for/ })
    .click();
  await expect(aside.getByText('In the library as')).toBeVisible();
  expect(await credits()).toBe(before - 5);
  await aside.getByRole('link', { name: /Tarred rope haul/ }).click();
  await expect(page.getByRole('heading', { name: /Tarred rope haul/ })).toBeVisible();
});

test('a pack opens, is bought for less, and lies in the library as a pack', async () => {
  await page.goto('/intake?supplier=true');
  await page.getByRole('button', { name: 'Packs', exact: true }).click();
  const row = page.getByRole('listitem').filter({ hasText: 'Crate lift and carry and 3 more' });
  await row.getByRole('button', { name: 'Open' }).click();
  await expect(page.getByRole('listitem')).toHaveCount(4);
  await page.getByRole('button', { name: 'Packs', exact: true }).click();
  const before = await credits();
  const price = Number(/\d+/.exec((await row.getByRole('button', { name: /credits/ }).textContent()) ?? '')![0]);
  await row.getByRole('button', { name: /credits/ }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Buy for/ })
    .click();
  await expect(row.getByText('owned')).toBeVisible();
  expect(await credits()).toBe(before - price);
  await page.goto('/library');
  await expect(page.getByText('Crate lift and carry and 3 more').first()).toBeVisible();
});

test('a corrected issue is told with what changed, and becomes the next version', async () => {
  await control('reissue', { id: 'take-4', changes: 'The left hand no longer slips.' });
  await page.goto('/intake?supplier=true');
  await page.getByRole('button', { name: /^New issues \(\d\)$/ }).click();
  await expect(page.getByText('The left hand no longer slips.')).toBeVisible();
  await expect(page.getByText('Nothing uses the old one.').first()).toBeVisible();
  await page.getByRole('button', { name: 'Take the new issue' }).first().click();
  await expect(page.getByText('Everything here is up to date.')).toBeVisible();
});
