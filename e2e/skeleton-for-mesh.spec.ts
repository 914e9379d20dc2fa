import { expect, test } from '@playwright/test';
import { fleshOf } from '../motion/test/flesh';
import { enter } from './people';

/** A body without a skeleton, as OBJ. */
function bareBody(): string {
  const { meshes } = fleshOf('T').model;
  let from = 1;
  return meshes
    .flatMap(({ name, positions, indices }) => {
      const at = from;
      from += positions.length / 3;
      return [
        `o ${name}`,
        ...Array.from({ length: positions.length / 3 }, (_, v) => `v ${positions.slice(3 * v, 3 * v + 3).join(' ')}`),
        ...Array.from(
          { length: indices.length / 3 },
          (_, t) => `f ${[0, 1, 2].map((k) => at + indices[3 * t + k]!).join(' ')}`,
        ),
      ];
    })
    .join('\n');
}

test('a bare mesh is marked, looked at moving, and becomes a cast member', async ({ page }) => {
  await enter(page);
  await page.goto('/cast');
  await page.getByRole('button', { name: 'Give a bare mesh a skeleton' }).click();
  await page
    .getByLabel('Mesh file')
    .setInputFiles({ name: 'Plain body.obj', mimeType: 'model/obj', buffer: Buffer.from('v 0 0 x') });
  await expect(page.getByRole('alert').filter({ hasText: 'Plain body.obj' })).toContainText('line 1');
  await page
    .getByLabel('Mesh file')
    .setInputFiles({ name: 'Plain body.obj', mimeType: 'model/obj', buffer: Buffer.from(bareBody()) });
  const wrist = page.getByRole('button', { name: 'wrist L, from the front' });
  await expect(wrist).toBeVisible();
  await wrist.focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText('mirrored')).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(page.getByText('mirrored')).toHaveCount(0);
  await page.getByRole('button', { name: 'Make the skeleton' }).click();
  const accept = page.getByRole('button', { name: 'Accept into the cast' });
  await expect(accept).toBeVisible();
  await page.getByLabel('Name in the cast').fill('Clay Pete');
  await accept.click();
  await expect(page.getByText('Clay Pete').first()).toBeVisible();
  await expect(page.getByText('At most four joints move a vertex')).toBeVisible();
});
