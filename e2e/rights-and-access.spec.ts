import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
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
