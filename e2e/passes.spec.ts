import { expect, type Page, test } from '@playwright/test';
import { call, enter } from './people';
import { addStandIn, bringIn, swayingFile } from './walkers';

// Recording in passes: the head over a motion, then the trunk within punches; each writes its own part and can be undone.
test.describe.configure({ mode: 'serial' });

interface Key {
  frame: number;
  turn?: number[];
}
interface Content {
  members: { keys: { joint?: string; keys: Key[] }[] }[];
}

let page: Page;
let reel: string;
const failures: string[] = [];

test.beforeAll(async ({ browser }) => {
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
  await enter(page);
  const cast = await addStandIn(page, 'Recorded', 1.6);
  await bringIn(page, [swayingFile('Pass sway', 'chest', 120)]);
  const { items } = (await call<{ items: { id: string; name: string }[] }>(page, 'GET', '/items?limit=500')).body;
  const placement = {
    id: 'p',
    itemId: items.find((i) => i.name === 'Pass sway')!.id,
    versionId: null,
    at: 0,
    from: 0,
    to: null,
    speed: 1,
    repeats: 1,
    mirrored: false,
    muted: false,
    inPlace: false,
    offset: { x: 0, z: 0, turn: 0 },
    join: { kind: 'crossfade', frames: 10, shape: 'smooth', meet: 'hips', level: false },
  };
  const member = { id: 'm', castId: cast, order: 1, muted: false, base: [placement], overlays: [], keys: [] };
  const body = { name: 'Passes', fps: 30, frames: 100, members: [member], markers: [] };
  reel = (await call<{ id: string }>(page, 'POST', '/reels', body)).body.id;
  await page.goto(`/reels?reel=${reel}`);
  await page.getByRole('tab', { name: 'Record' }).click();
  await expect(page.getByRole('application', { name: /^Pad/ })).toBeVisible();
});

test.afterAll(async () => {
  expect(failures).toEqual([]);
  await page.close();
});

/** Joints that keys are set for, as stored, with their frames. */
async function keys(): Promise<Record<string, number[]>> {
  const { content } = (await call<{ content: Content }>(page, 'GET', `/reels/${reel}`)).body;
  return Object.fromEntries(content.members[0]!.keys.map((t) => [t.joint ?? '', t.keys.map((k) => k.frame)]));
}

async function choose(label: string, option: string): Promise<void> {
  await page.getByLabel(label).click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

test('the head is played with the arrow keys while the rest plays along', async () => {
  await choose('Seconds to count in', '1 s');
  await page.getByRole('button', { name: 'Record a pass' }).click();
  await expect(page.getByText('Recording …')).toBeVisible();
  const pad = page.getByRole('application', { name: /^Pad/ });
  for (let i = 0; i < 6; i++) {
    await pad.press('ArrowRight');
    await page.waitForTimeout(120);
  }
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect.poll(async () => Object.keys(await keys()).sort()).toEqual(['head', 'neck1']);
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled();
});

test('a second pass writes the trunk between its punches, and leaves the head alone', async () => {
  const before = await keys();
  await choose('What the pad moves', 'the trunk');
  await choose('Seconds to count in', 'at once');
  // punch in at frame 21 and out at frame 41
  const seek = async (frame: number): Promise<void> =>
    page
      .getByRole('slider', { name: 'Frame' })
      .last()
      .evaluate((input: HTMLInputElement, value) => {
        Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!.call(input, String(value));
        input.dispatchEvent(new Event('input', { bubbles: true }));
      }, frame);
  await seek(20);
  await page.keyboard.press('BracketLeft');
  await seek(40);
  await page.keyboard.press('BracketRight');
  await expect(page.getByText('Writes frames 21 to 41')).toBeVisible();
  await page.getByRole('button', { name: 'Record a pass' }).click();
  // it ends by itself where it punches out
  await expect(page.getByRole('button', { name: 'Record a pass' })).toBeVisible();
  await expect.poll(async () => Object.keys(await keys()).some((j) => j.startsWith('spine'))).toBe(true);
  const after = await keys();
  expect(after.head).toEqual(before.head);
  for (const [joint, frames] of Object.entries(after))
    if (joint.startsWith('spine')) expect(frames.every((f) => f >= 16 && f <= 44)).toBe(true);
});

test('undo takes one pass back, and only that one', async () => {
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => Object.keys(await keys()).sort()).toEqual(['head', 'neck1']);
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect.poll(async () => Object.keys(await keys()).some((j) => j.startsWith('spine'))).toBe(true);
});
