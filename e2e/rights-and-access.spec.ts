import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect, test } from '@playwright/test';
import { enter } from './people';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

for (const theme of ['velvet', 'daylight']) {
  for (const place of [
    'library',
    'library?view=table',
    'library?view=tiles',
    'cast',
    'cast?tab=rest',
    'cast?tab=sides',
    'cast?tab=limits',
    'fitting',
    'fitting?pane=plants',
    'fitting?pane=hand',
    'fitting?pane=curves',
    'intake',
    'people',
    'activity',
  ]) {
    test(`${place} in ${theme}: nothing that keeps anybody out`, async ({ page }) => {
      await page.addInitScript((t) => localStorage.setItem('velvet-theme', t), theme);
      await enter(page);
      await page.goto(`/${place}`);
      await page.waitForTimeout(2500);
      await page.evaluate(axe);
      const found = await page.evaluate(async () => {
        const { axe: run } = window as unknown as {
          axe: { run: () => Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }> };
        };
        return (await run.run()).violations
          .filter((v) => v.impact === 'serious' || v.impact === 'critical')
          .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 90)).join(' | ')}`);
      });
      expect(found).toEqual([]);
    });
  }
}

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
  expect(answer).toEqual({ status: 400, body: { code: 'invalid', message: 'change.name: a name is due' } });
});
