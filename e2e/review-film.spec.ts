import { readFile } from 'node:fs/promises';
import { expect, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import { call, enter } from './people';
import { addStandIn, bringIn, swayingFile } from './walkers';

// A review film, made while its maker goes on working, here or elsewhere: as video that plays, as pictures, as a GIF, and given up.
test.describe.configure({ mode: 'serial' });

let page: Page;
const failures: string[] = [];
const FRAMES = 40;

test.beforeAll(async ({ browser }) => {
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
  await enter(page);
  const cast = await addStandIn(page, 'Filmed', 1.5);
  await bringIn(page, [swayingFile('Film bow', 'chest', FRAMES)]);
  const { items } = (await call<{ items: { id: string; name: string }[] }>(page, 'GET', '/items?limit=500')).body;
  await page.goto(`/fitting?item=${items.find((i) => i.name === 'Film bow')!.id}&cast=${cast}`);
  await expect(page.getByText(/^score \d+/)).toBeVisible();
});

test.afterAll(async () => {
  expect(failures).toEqual([]);
  await page.close();
});

async function choose(label: string, option: string): Promise<void> {
  await page.getByLabel(label).click();
  await page.getByRole('option', { name: option, exact: true }).click();
}

async function film(kind: string, more: () => Promise<void> = async () => undefined): Promise<Buffer> {
  await page.getByRole('button', { name: 'Make a review film' }).click();
  await choose('Kind of file', kind);
  await choose('Lines of the picture', '360');
  await choose('Pictures a second', '30');
  await more();
  const loads = page.waitForEvent('download');
  await page.getByRole('button', { name: /^Make \d+ pictures$/ }).click();
  const file = await loads;
  expect(file.suggestedFilename()).toMatch(/^Film bow on Filmed\.(webm|gif|zip)$/);
  return readFile(await file.path());
}

test('as WebM it plays as long as the motion lasts', async () => {
  const bytes = await film('WebM video', () => choose('What the film shows', 'both, side by side'));
  // the application's own pages may not play files
  const player = await page.context().browser()!.newPage();
  const told = await player.evaluate(async (base64) => {
    const blob = new Blob([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], { type: 'video/webm' });
    const video = document.createElement('video');
    video.src = URL.createObjectURL(blob);
    await new Promise((done, failed) => {
      video.onloadeddata = done;
      video.onerror = failed;
    });
    return { seconds: video.duration, size: [video.videoWidth, video.videoHeight] };
  }, bytes.toString('base64'));
  await player.close();
  expect(told.size).toEqual([640, 360]);
  const { facts } = (
    await call<{ items: { name: string; facts: { fps: number } }[] }>(page, 'GET', '/items?limit=500')
  ).body.items.find((i) => i.name === 'Film bow')!;
  expect(Math.abs(told.seconds - FRAMES / facts.fps)).toBeLessThan(0.1);
});

test('as pictures, one for each moment, of which no two of a moving body are alike', async () => {
  const files = unzipSync(
    new Uint8Array(await film('PNG pictures in a ZIP', () => choose('What the film shows', 'the result alone'))),
  );
  const names = Object.keys(files);
  expect(names[0]).toBe('frame-00001.png');
  expect(names.length).toBeGreaterThan(10);
  const first = Buffer.from(files[names[0]!]!);
  expect(first.subarray(1, 4).toString()).toBe('PNG');
  // there is somebody in it: an empty backdrop packs into far less
  expect(first.length).toBeGreaterThan(15_000);
  expect(first.equals(Buffer.from(files[names[5]!]!))).toBe(false);
});

test('as a GIF, and not at all where it is given up', async () => {
  await page.getByRole('button', { name: 'Make a review film' }).click();
  await choose('Kind of file', 'GIF');
  await choose('What the film shows', 'both, over each other');
  const loads = page.waitForEvent('download');
  await page.getByRole('button', { name: /^Make \d+ pictures$/ }).click();
  // it goes on while its maker is in another place
  await page.getByRole('link', { name: 'Library' }).first().click();
  await expect(page).toHaveURL(/\/library/);
  const gif = await readFile(await (await loads).path());
  await page.goBack();
  await expect(page.getByText(/^score \d+/)).toBeVisible();
  expect(gif.subarray(0, 6).toString()).toBe('GIF89a');
  await page.getByRole('button', { name: 'Make a review film' }).click();
  await choose('Lines of the picture', '1080');
  await choose('Pictures a second', '60');
  await page.getByRole('button', { name: /^Make \d+ pictures$/ }).click();
  await page.getByRole('button', { name: 'Stop filming' }).click();
  await expect(page.getByText('Filming Film bow on Filmed')).toHaveCount(0);
  // the fitting is there as before
  await expect(page.getByText(/^score \d+/)).toBeVisible();
});
