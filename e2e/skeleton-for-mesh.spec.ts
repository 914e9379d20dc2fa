import { expect, test } from '@playwright/test';
import { objOf } from '../motion/test/flesh';
import { fingeredFlesh } from '../motion/test/gloves';
import { enter } from './people';

test('a bare mesh is marked, looked at moving, and becomes a cast member', async ({ page }) => {
  await enter(page);
  await page.goto('/cast');
  await page.getByRole('button', { name: 'Give a bare mesh a skeleton' }).click();
  await page
    .getByLabel('Mesh file')
    .setInputFiles({ name: 'Plain body.obj', mimeType: 'model/obj', buffer: Buffer.from('v 0 0 x') });
  await expect(page.getByRole('alert').filter({ hasText: 'Plain body.obj' })).toContainText('line 1');
  await page.getByLabel('Mesh file').setInputFiles({
    name: 'Plain body.obj',
    mimeType: 'model/obj',
    buffer: Buffer.from(objOf(fingeredFlesh().model.meshes)),
  });
  const wrist = page.getByRole('button', { name: 'wrist L, from the front' });
  await expect(wrist).toBeVisible();
  // turned about itself by four quarters it stands as before
  const across = async (): Promise<number> => Math.round((await wrist.boundingBox())!.x);
  const stood = await across();
  for (let quarter = 1, last = stood; quarter <= 4; quarter++, last = await across()) {
    await page.getByRole('button', { name: 'Facing the wrong way? Turn it' }).click();
    await expect.poll(across).not.toBe(last);
  }
  expect(await across()).toBe(stood);
  await wrist.focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText('mirrored')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(page.getByText('mirrored')).toHaveCount(0);
  await page.getByRole('button', { name: /^Loose parts/ }).click();
  await page
    .getByRole('combobox', { name: /^What moves/ })
    .first()
    .click();
  await page.getByRole('option', { name: 'hand R' }).click();
  await expect(page.getByRole('button', { name: /1 tied/ })).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(page.getByRole('button', { name: /tied/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Redo', exact: true }).first().click();
  await page.getByRole('button', { name: 'Make the skeleton' }).click();
  const accept = page.getByRole('button', { name: 'Accept into the cast' });
  await expect(accept).toBeVisible();
  await expect(page.getByText('5 fingers on each hand')).toBeVisible();
  await page.getByLabel('Name in the cast').fill('Clay Pete');
  await accept.click();
  await expect(page.getByText('Clay Pete').first()).toBeVisible();
  await expect(page.getByText('At most four joints move a vertex')).toBeVisible();
});

/** A person of strokes in layers without names, arms and legs in one piece. */
const STROKES = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 300">
  ${[
    ['#456', 30, 'M100 66L100 150'],
    ['#da7', 40, 'M100 22L100 42'],
    ['#a54', 13, 'M108 74L150 104L184 76'],
    ['#a54', 13, 'M92 74L52 104L24 138'],
    ['#234', 16, 'M104 150L118 215L132 284'],
    ['#234', 16, 'M96 150L84 215L70 284'],
  ]
    .map(
      ([paint, wide, d], i) =>
        `<g id="layer${i + 1}"><path d="${d}" fill="none" stroke="${paint}" stroke-width="${wide}" stroke-linecap="round"/></g>`,
    )
    .join('')}</svg>`;

test('joints are marked on a drawing whose layers say nothing, and it is put together by them', async ({ page }) => {
  await enter(page);
  await page.goto('/intake');
  await page
    .getByLabel('Choose files')
    .setInputFiles({ name: 'Strokes.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(STROKES) });
  await page.getByRole('link', { name: 'Strokes' }).first().click();
  await page.getByRole('tab', { name: 'Parts' }).click();
  const parts = page.getByRole('listitem').filter({ hasText: /layer\d/ });
  await expect(parts.filter({ hasText: ', guessed' })).not.toHaveCount(0);
  await page.getByRole('button', { name: 'Mark the joints' }).click();
  // an elbow is suggested, dragged to where the arm bends, and taken out again: the arm is one piece
  const elbow = page.getByRole('switch', { name: 'forearm L' });
  await elbow.click();
  const mark = page.getByRole('slider', { name: 'Mark of the forearm L' });
  const before = await mark.getAttribute('aria-valuetext');
  const box = (await mark.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + 40, box.y + 30, { steps: 4 });
  await page.mouse.up();
  expect(await mark.getAttribute('aria-valuetext')).not.toBe(before);
  await mark.press('Delete');
  await expect(mark).toHaveCount(0);
  await page.getByRole('button', { name: 'Put it together' }).click();
  await expect(page.getByText(/Strokes is put together by \d+ marks/)).toBeVisible();
  await expect(parts.filter({ hasText: 'upper arm L' })).toHaveText(/layer3/);
  await expect(parts.filter({ hasText: ', guessed' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(parts.filter({ hasText: ', guessed' })).not.toHaveCount(0);
});
