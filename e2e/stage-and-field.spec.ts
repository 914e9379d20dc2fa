import { type ChildProcess, spawn } from 'node:child_process';
import { expect, type Page, test } from '@playwright/test';
import { guessBodyMap, motionToJson, restMotion, standIn } from '../motion/index';
import { axisAngleQuat } from '../motion/math/quat';
import { call, enter } from './people';

// A field of poses, wandered over by pointer, keys and a stick; a capture stage that goes away and comes back.
test.describe.configure({ mode: 'serial' });

let page: Page;
const failures: string[] = [];
const POSES = ['Field arms low', 'Field arms out', 'Field head aside'];

test.beforeAll(async ({ browser }) => {
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
  // a gamepad whose stick the test moves
  await page.addInitScript(() => {
    const pad = { connected: true, axes: [0, 0] };
    (window as unknown as { pad: typeof pad }).pad = pad;
    navigator.getGamepads = () => [pad as unknown as Gamepad];
  });
  await enter(page);
  const rig = standIn('A', 1.75);
  const map = guessBodyMap(rig);
  const files = POSES.map((name, i) => {
    const motion = restMotion(rig);
    const turn = (slot: string, x: number, y: number, z: number, angle: number): void =>
      axisAngleQuat(motion.turns, 4 * rig.names.indexOf(slot), x, y, z, angle);
    if (i === 1) turn('upperArmL', 0, 0, 1, 0.8);
    if (i === 2) turn('head', 0, 1, 0, 0.7);
    return {
      name: `${name}.json`,
      mimeType: 'application/json',
      buffer: Buffer.from(JSON.stringify(motionToJson(rig, [{ name, motion }], map))),
    };
  });
  const made = (
    await call<{ id: string }>(page, 'POST', '/cast/stand-in', { name: 'Field stand-in', rest: 'A', heightM: 1.75 })
  ).body;
  await page.goto(`/cast?member=${made.id}`);
  const hand = page.getByRole('button', { name: 'Put on hand' });
  if (await hand.isVisible().catch(() => false)) await hand.click();
  await page.goto('/intake');
  await page.getByLabel('Choose files').setInputFiles(files);
  for (const name of POSES) await expect(page.getByRole('link', { name })).toBeVisible();
});

test.afterAll(async () => {
  expect(failures).toEqual([]);
  await page.close();
});

test('poses are pinned, mixed by pointer, keys and stick, and a recording is kept', async () => {
  await page.goto('/reels?field=true');
  const pinned = page.getByRole('link', { name: /^Field / });
  for (const [i, name] of POSES.entries()) {
    await page.getByLabel('Pose to pin').fill(name);
    await page.locator('aside button[aria-pressed]', { hasText: name }).first().click();
    await expect(pinned).toHaveCount(i + 1);
  }
  const record = page.getByRole('button', { name: 'Record', exact: true });
  await expect(record).toBeEnabled();
  const plane = page.getByRole('application');
  await plane.hover({ position: { x: 30, y: 40 } });
  const share = (name: string) => page.locator('li', { has: page.getByRole('link', { name }) }).getByText('%');
  const before = await share(POSES[0]!).textContent();
  await plane.focus();
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowDown');
  await expect(share(POSES[0]!)).not.toHaveText(before!);
  // the stick says where on the field the mix is
  await page.evaluate(() => {
    (window as unknown as { pad: { axes: number[] } }).pad.axes = [0.9, -0.9];
  });
  const pointer = page.locator('svg[role=application] circle').last();
  await expect(pointer).toHaveAttribute('cx', /^0\.95/);
  await record.click();
  for (const x of [-0.8, -0.3, 0.4, 0.8]) {
    await page.evaluate((to) => {
      (window as unknown as { pad: { axes: number[] } }).pad.axes = [to, 0.5];
    }, x);
    await expect(pointer).toHaveAttribute('cx', String((x + 1) / 2));
  }
  await page.getByRole('button', { name: 'Stop' }).click();
  await page.getByRole('button', { name: 'Keep the recording' }).click();
  await expect(page.getByText(/^Kept as Field, /)).toBeVisible();
  // pins are still there for who comes back
  await page.reload();
  await expect(pinned).toHaveCount(3);
});

test('a stage is shown and recorded, told when it goes away, and found again', async () => {
  const stages: ChildProcess[] = [];
  const start = (): void => {
    const args = [
      'cli/velvet-reel.mjs',
      'capture-stage',
      '--fps',
      '60',
      '--performers',
      '2',
      '--loss',
      '5',
      '--jitter',
      '15',
    ];
    stages.push(spawn(process.execPath, args, { stdio: 'ignore' }));
  };
  try {
    await page.goto('/reels?live=true');
    await expect(page.getByText('velvet-reel capture-stage')).toBeVisible();
    start();
    await expect(page.getByRole('status').filter({ hasText: 'live' })).toBeVisible();
    await expect(page.getByRole('radio')).toHaveCount(2);
    await page.getByLabel('Slate').fill('Gangway');
    // on a busy machine a stage that has just begun may be away for a moment, and nothing is recorded then
    await expect(async () => {
      if (!(await page.getByRole('button', { name: 'Stop the take' }).isVisible()))
        await page.getByRole('button', { name: 'Record a take' }).click({ timeout: 5000 });
      await expect(page.getByText(/^\d{2,}.* frames recorded/)).toBeVisible({ timeout: 10_000 });
    }).toPass();
    // killed in the middle of a take: what came is kept
    stages[0]!.kill('SIGKILL');
    await expect(page.getByText('velvet-reel capture-stage')).toBeVisible();
    await page.getByRole('button', { name: 'Stop the take' }).click();
    const first = page.getByRole('link', { name: 'Gangway 1, Performer 1' });
    await expect(first).toBeVisible();
    await expect(page.getByText(/frames (came|never came)/).first()).toBeVisible();
    await page.getByRole('button', { name: 'Mark Gangway 1, Performer 1 as a good take' }).click();
    start();
    await expect(page.getByRole('status').filter({ hasText: 'live' })).toBeVisible();
    await first.click();
    await expect(page.getByText('good take').first()).toBeVisible();
  } finally {
    for (const s of stages) s.kill('SIGKILL');
  }
});
