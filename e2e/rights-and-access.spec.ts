import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { createOTP } from '@better-auth/utils/otp';
import { expect, type Page, test } from '@playwright/test';
import { enter } from './people';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

const PLACES = [
  'library',
  'library?view=table',
  'library?view=tiles',
  'cast',
  'cast?tab=rest',
  'cast?tab=sides',
  'cast?tab=limits',
  'cast?tab=made',
  'fitting',
  'fitting?pane=plants',
  'fitting?pane=hand',
  'fitting?pane=curves',
  'reels',
  'reels?all=true',
  'reels?field=true',
  'reels?live=true',
  'intake?supplier=true',
  'cast?mesh=true',
  'intake',
  'people',
  'activity',
];

/** Waits until nothing more comes onto the page. */
async function settled(page: Page): Promise<void> {
  let before = '';
  let same = 0;
  for (let look = 0; look < 150 && same < 3; look++) {
    await page.waitForTimeout(200);
    const now = await page.evaluate(() => `${document.querySelectorAll('*').length} ${document.body.textContent}`);
    same = now === before && !/Opening|Loading/.test(now) ? same + 1 : 0;
    before = now;
  }
  expect(same, 'the page came to rest').toBe(3);
}

/** What axe finds that keeps somebody out. @param only one rule of it; all where left out */
function barriers(page: Page, only?: string): Promise<string[]> {
  return page.evaluate(async (rule) => {
    interface Found {
      violations: { id: string; impact: string; nodes: { html: string }[] }[];
    }
    const { axe: run } = window as unknown as { axe: { run: (options: object) => Promise<Found> } };
    return (await run.run(rule ? { runOnly: [rule] } : {})).violations
      .filter((v) => v.impact === 'serious' || v.impact === 'critical')
      .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 90)).join(' | ')}`);
  }, only);
}

test.describe('places', () => {
  let page: Page;
  test.beforeAll(async ({ browser }) => {
    page = await browser.newPage();
    await page.addInitScript(() => localStorage.setItem('velvet-theme', 'velvet'));
    await enter(page);
  });
  test.afterAll(() => page.close());
  for (const place of PLACES)
    test(`${place}: nothing that keeps anybody out, by night and by day`, async () => {
      await page.goto(`/${place}`);
      await settled(page);
      await page.evaluate(axe);
      expect(await barriers(page)).toEqual([]);
      // the other look changes colours only, here at once
      await page.addStyleTag({ content: '* { transition: none !important }' });
      await page.evaluate(() => {
        document.documentElement.dataset.theme = 'daylight';
      });
      expect(await barriers(page, 'color-contrast')).toEqual([]);
    });
});

test('a stranger is turned away, another site too', async ({ request }) => {
  expect((await request.get('/api/v1/items')).status()).toBe(401);
  expect((await request.get('/api/live')).status()).toBe(401);
  expect(
    (
      await request.patch('/api/v1/items/x', { data: { name: 'y' }, headers: { origin: 'http://evil.example' } })
    ).status(),
  ).toBe(403);
  expect((await request.post('/api/session', { headers: { origin: 'http://evil.example' } })).status()).toBe(403);
});

test('bad input is answered with a sentence', async ({ page }) => {
  await enter(page);
  const answer = await page.evaluate(async () => {
    const r = await fetch('/api/v1/items/nobody', {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: '{"change": {"name": ""}}',
    });
    return { status: r.status, body: await r.json() };
  });
  expect(answer).toEqual({ status: 400, body: { code: 'invalid', message: 'change.name: enter a name' } });
});

test('somebody follows an invitation, asks for a code at sign-in, and comes in with it', async ({ page, browser }) => {
  await enter(page);
  await page.goto('/people');
  await page.getByRole('button', { name: 'Invite' }).click();
  await page.getByLabel('Whom is it for?').fill('Pim Harker');
  await page.getByRole('button', { name: 'Make the link' }).click();
  const link = await page.getByRole('dialog', { name: 'The invitation' }).locator('code').textContent();
  await page.keyboard.press('Escape');
  await expect(page.getByTitle('Pim Harker')).toBeVisible();
  await expect(page.getByText('is invited as animator')).toBeVisible();

  const pim = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage();
  await pim.goto(link ?? '');
  await expect(pim.getByRole('heading', { name: 'Welcome, Pim Harker' })).toBeVisible();
  expect(pim.url()).not.toContain('invitation');
  await pim.getByLabel('E-mail address').fill('pim@ferry.example');
  await pim.getByLabel(/Password/).fill('the ebb runs out');
  await pim.getByRole('button', { name: 'Create it and sign in' }).click();
  await expect(pim.getByRole('navigation', { name: 'Places' })).toBeVisible();
  await pim.goto('/people');
  await pim.getByRole('button', { name: 'Set it up' }).click();
  await pim.getByLabel('Your password').fill('the ebb runs out');
  await pim.getByRole('button', { name: 'Go on' }).click();
  const secret = fromBase32((await pim.getByRole('dialog').locator('code').first().textContent()) ?? '');
  const code = (): Promise<string> => createOTP(secret, { digits: 6, period: 30 }).totp();
  await pim.getByLabel('The code that it shows').fill(await code());
  await pim.getByRole('button', { name: 'Confirm' }).click();
  await expect(pim.getByText('asked for besides your password')).toBeVisible();

  const elsewhere = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage();
  await elsewhere.goto('/library');
  await elsewhere.getByLabel('E-mail address').fill('pim@ferry.example');
  await elsewhere.getByLabel('Password').fill('the ebb runs out');
  await elsewhere.getByRole('button', { name: 'Sign in', exact: true }).click();
  await elsewhere.getByLabel('Code').fill('000000');
  await elsewhere.getByRole('button', { name: 'Sign in' }).click();
  await expect(elsewhere.locator('form [role=alert]')).toContainText('The code is wrong');
  await elsewhere.getByLabel('Code').fill(await code());
  await elsewhere.getByRole('button', { name: 'Sign in' }).click();
  await expect(elsewhere.getByRole('navigation', { name: 'Places' })).toBeVisible();
  await elsewhere.context().close();
  await pim.context().close();
});

/** The text that base 32 stands for. */
function fromBase32(text: string): string {
  const bits = [...text.trim()].map((c) => 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567'.indexOf(c).toString(2).padStart(5, '0'));
  return Buffer.from(
    bits
      .join('')
      .match(/.{8}/g)!
      .map((b) => Number.parseInt(b, 2)),
  ).toString('utf8');
}
