import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { unzipSync, zipSync } from 'fflate';
import { importFile, writeBvh } from '../motion/index';
import { posedRig, wander } from '../motion/test/bodies';
import { call, enter } from './people';

// Many takes, several people, one library. The steps follow one another; one that fails does not keep the others from running.

const folder = mkdtempSync(join(tmpdir(), 'velvet-library-'));
const COUNT = 16;
let page: Page;
let other: Page;
const failures: string[] = [];

const take = (seed: number): string => {
  const rig = posedRig(90);
  return writeBvh(rig, wander(rig, 40 + seed, 500 + seed, 30, 0.3));
};

test.beforeAll(async ({ browser }) => {
  mkdirSync(join(folder, 'night', 'haul'), { recursive: true });
  mkdirSync(join(folder, 'night', 'walk'), { recursive: true });
  for (let i = 1; i <= COUNT; i++)
    writeFileSync(
      join(folder, 'night', i % 2 ? 'haul' : 'walk', `0${7 + (i % 2)}_${String(i).padStart(2, '0')}.bvh`),
      take(i),
    );
  writeFileSync(join(folder, 'night', 'walk', 'cut.bvh'), take(99).slice(0, 3000));
  writeFileSync(
    join(folder, 'more.zip'),
    zipSync({
      'aft/20_01.bvh': new TextEncoder().encode(take(41)),
      'aft/20_02.bvh': new TextEncoder().encode(take(42)),
    }),
  );
  const rows = Array.from(
    { length: COUNT + 2 },
    (_, i) => `${7 + ((i + 1) % 2)},${i + 1},"Night task ${i + 1}; wet deck",${i % 2 ? 'walk' : 'rope'}`,
  );
  writeFileSync(
    join(folder, 'index.csv'),
    ['Subject,Take,Description,Category', 'The night watch,,,', ...rows].join('\n'),
  );
  page = await browser.newPage();
  other = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  for (const p of [page, other]) p.on('pageerror', (error) => failures.push(error.message));
  await enter(page);
});
test.afterAll(async () => {
  await page.close();
  await other.close();
});

const options = (p = page) => p.getByRole('option');
/** Opens a view of the library and waits for its items. */
const open = async (path: string, p = page): Promise<void> => {
  await p.goto(path);
  await expect(options(p).first()).toBeVisible();
};
const search = async (text: string, p = page): Promise<void> => {
  await p.getByRole('combobox', { name: 'Search' }).fill(text);
  await p.keyboard.press('Enter');
};

test('a folder comes in as one job with its folders; what is refused says why', async () => {
  await page.goto('/intake');
  await page.getByLabel('Choose a folder').setInputFiles(join(folder, 'night'));
  const job = page.getByRole('region', { name: 'night' });
  await expect(job.getByText(`${COUNT + 1} of ${COUNT + 1}`)).toBeVisible();
  await expect(job.getByText('1 refused', { exact: true })).toBeVisible();
  await expect(job.getByText(/cut\.bvh.*line/)).toBeVisible();
  await page.goto('/library');
  await page.getByLabel('choose a folder', { exact: false }).first().click();
  await expect(page.getByRole('menuitem', { name: /^night/ })).toContainText(String(COUNT));
  await page.getByRole('menuitem', { name: /^haul/ }).click();
  await expect(options()).toHaveCount(COUNT / 2);
});

test('the very same folder again adds nothing; an archive is unpacked into its folder', async () => {
  await page.goto('/intake');
  await page.getByLabel('Choose a folder').setInputFiles(join(folder, 'night'));
  await expect(page.getByText(/library, as 0[78]_/).first()).toBeVisible();
  await page.locator('input[type=file]').first().setInputFiles(join(folder, 'more.zip'));
  const job = page.getByRole('region', { name: 'more.zip' });
  await expect(job.getByText('3 of 3')).toBeVisible();
  await page.goto('/library');
  await search('20_0');
  await expect(options()).toHaveCount(2);
});

test('a table of descriptions is joined on, previewed, written, and taken back as one', async () => {
  await page.goto('/intake');
  await page
    .getByRole('region', { name: 'night', exact: true })
    .last()
    .getByRole('button', { name: 'Describe from a table' })
    .click();
  await page.getByLabel('Choose a table').setInputFiles(join(folder, 'index.csv'));
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('tab', { name: `${COUNT} matched` })).toBeVisible();
  await dialog.getByRole('tab', { name: '2 rows without a file' }).click();
  await expect(dialog.getByText('row 20')).toBeVisible();
  await dialog.getByRole('button', { name: `Describe ${COUNT} items` }).click();
  await open('/library?view=table');
  await search('night task');
  await expect(page.getByText(`${COUNT} of`)).toBeVisible();
  await expect(options().filter({ hasText: 'Night task 7' })).toBeVisible();
  await page.goto('/activity');
  const entry = page.getByText(`Described ${COUNT} items from index.csv`);
  await expect(entry).toBeVisible();
  await page.getByRole('button', { name: 'Undo this' }).first().click();
  await page.goto('/library');
  await search('night task');
  await expect(page.getByText('Nothing matches')).toBeVisible();
  await page.goto('/activity');
  // taking back is an action, too
  await page.getByRole('button', { name: 'Undo this' }).first().click();
  await expect(page.getByText(/Undid: Undid/).first()).toBeVisible();
});

test('words, narrowings with counts and completion find; what is hidden is told; one key clears', async () => {
  await page.goto('/library');
  await search('night');
  await page.getByRole('button', { name: 'narrow' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^rope\s*8/ })
    .click();
  await page.keyboard.press('Escape');
  await expect(options()).toHaveCount(COUNT / 2);
  await expect(page.getByRole('button', { name: 'Remove tag: rope' })).toBeVisible();
  await page.getByRole('button', { name: 'Remove tag: rope' }).click();
  const field = page.getByRole('combobox', { name: 'Search' });
  await field.fill('night -rope lon');
  await expect(page.getByRole('listbox', { name: 'Suggestions' }).getByText('longer:', { exact: true })).toBeVisible();
  await page.keyboard.press('Tab');
  await page.keyboard.type('1.6 ');
  await expect(page.getByRole('button', { name: 'Remove longer: 1.6' })).toBeVisible();
  await field.fill('nihgt');
  await page.keyboard.press('Enter');
  await expect(page.getByText('“nihgt” read as night')).toBeVisible();
  await field.blur();
  await page.keyboard.press('Escape');
  await expect(page.getByText(/^(\d+) of \1$/)).toBeVisible();
});

test('a view is saved, shared, opened again; the address holds it for a colleague', async () => {
  await open('/library?q=night+tag:rope&view=table&sort=length');
  await expect(page.getByRole('listbox', { name: 'Table' })).toBeVisible();
  await page.getByRole('button', { name: 'Saved searches' }).click();
  await page.getByLabel('Name for this search').fill('Ropes by night');
  await page.getByRole('switch', { name: 'Share it with colleagues' }).click();
  await page.getByRole('button', { name: 'Save the search' }).click();
  await enter(other, 'noor');
  await other.goto('/library');
  await other.getByRole('button', { name: 'Saved searches' }).click();
  await other.getByRole('button', { name: /Ropes by night/ }).click();
  await expect(other).toHaveURL(/view=table/);
  await expect(options(other)).toHaveCount(COUNT / 2);
});

test('strips, table and tiles show the same; columns are chosen and sort', async () => {
  await open('/library?q=night');
  await page.keyboard.press('3');
  await expect(page.getByRole('listbox', { name: 'Tiles' })).toBeVisible();
  await page.keyboard.press('2');
  await expect(page.getByRole('listbox', { name: 'Table' })).toBeVisible();
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByLabel('Heading', { exact: true }).last().check();
  await page.keyboard.press('Escape');
  await expect(options().first()).toContainText('The night watch');
  await page.getByRole('button', { name: 'Length', exact: true }).click();
  await expect(page).toHaveURL(/sort=length/);
  await expect(options().first()).toContainText('Night task 1');
  await page.getByRole('button', { name: 'Length', exact: true }).click();
  await expect(options().first()).toContainText(`Night task ${COUNT}`);
});

test('everything found is chosen, described at once, renamed by rule with a preview, and undone step by step', async () => {
  await open('/library?q=tag:rope');
  await expect(options()).toHaveCount(COUNT / 2);
  await page.keyboard.press('Control+a');
  const bar = page.getByRole('toolbar', { name: 'For everything selected' });
  await expect(bar.getByText(`${COUNT / 2} selected`)).toBeVisible();
  await bar.getByRole('button', { name: 'Tags' }).click();
  await page.getByLabel('Tag to add to all of them').fill('lantern');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(options().first()).toContainText('lantern');
  await bar.getByRole('button', { name: 'Rename' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Or a completely new name').fill('Rope');
  await expect(dialog.getByText(`${COUNT / 2} names would not be valid`)).toBeVisible();
  await dialog.getByLabel('Or a completely new name').fill('Rope {n}');
  await expect(dialog.getByText('Rope 03')).toBeVisible();
  await dialog.getByRole('button', { name: `Rename ${COUNT / 2}` }).click();
  await expect(options().first()).toContainText('Rope 01');
  await page.keyboard.press('Control+z');
  await expect(options().first()).toContainText('Night task');
  await page.keyboard.press('Control+z');
  await expect(options().filter({ hasText: 'lantern' })).toHaveCount(0);
});

test('a stretch by shift, one more by control; compared side by side in step', async () => {
  await open('/library?q=tag:rope');
  await options().nth(0).click();
  await options()
    .nth(2)
    .click({ modifiers: ['Shift'] });
  await expect(page.getByText('3 selected')).toBeVisible();
  await options()
    .nth(1)
    .click({ modifiers: ['Control'] });
  await expect(page.getByText('2 selected')).toBeVisible();
  await page.keyboard.press('b');
  const dialog = page.getByRole('dialog', { name: '2 side by side' });
  await expect(dialog.locator('figure')).toHaveCount(2);
  await page.keyboard.press('Escape');
});

test('stars, rights, heading, props and a favourite are kept', async () => {
  await open('/library?q=tag:rope');
  await options().nth(0).click();
  await page.getByRole('button', { name: '4 stars' }).click();
  await page.getByRole('combobox', { name: 'Rights' }).click();
  await page.getByRole('option', { name: 'free for any use' }).click();
  await page.getByRole('button', { name: 'a prop that it needs' }).click();
  await page.getByLabel('Height of prop in metres').fill('0.45');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /Add to favourites/ }).click();
  await open('/library?q=is:favourite+rated:4+rights:free');
  await expect(options()).toHaveCount(1);
  await expect(page.getByLabel('Height of prop in metres')).toHaveValue('0.45');
});

test('saving over asks first and keeps the old version, which is shown beside and put in force again', async () => {
  await open('/library?q=is:favourite');
  await page.keyboard.press('c');
  const panel = page.getByRole('region', { name: 'Change' });
  await panel.getByRole('switch', { name: 'Mirror' }).click();
  await panel.getByRole('button', { name: 'Save over …' }).click();
  await panel.getByRole('button', { name: 'Yes, save as version 2' }).click();
  await expect(options().first()).toContainText('v2');
  await page.keyboard.press('v');
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Compare with current' }).click();
  await expect(dialog.locator('figure')).toHaveCount(2);
  await dialog.getByRole('button', { name: 'Make current' }).click();
  await expect(dialog.getByText('Restored version 1')).toBeVisible();
  await expect(dialog.getByRole('figure', { name: 'version 2' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(options().first()).toContainText('v1');
});

test('a pose and a part of the body are taken from an item, and say what is kept and left out', async () => {
  await open('/library?q=is:favourite');
  await page.keyboard.press('c');
  const panel = page.getByRole('region', { name: 'Change' });
  await expect(panel.getByText('21 of 21 joints')).toBeVisible();
  await panel.getByRole('button', { name: 'left arm', pressed: true }).click();
  await expect(panel.getByText(/17 of 21 joints.*left out though they move: LeftShoulder/)).toBeVisible();
  await panel.getByRole('button', { name: 'Pose at this frame' }).click();
  await panel.getByLabel('Name of the new item').fill('A pose of it');
  await panel.getByRole('button', { name: 'Keep as a new item' }).click();
  await open('/library?q=kind:pose');
  await expect(options()).toHaveCount(1);
  await expect(page.getByText('made from')).toBeVisible();
});

test('the picture of an item is taken from the stage', async () => {
  await open('/library?q=is:favourite&view=tiles');
  await expect(page.getByText(/out of 100 on|reading the motion/).first()).toBeVisible();
  await page.waitForTimeout(1500);
  await page.getByRole('button', { name: 'Take this view as the item’s picture' }).click();
  const picture = options().first().locator('img');
  await expect(picture).toBeVisible();
  // more than one colour: the stage was really drawn
  const colours = await picture.evaluate(async (img: HTMLImageElement) => {
    await img.decode();
    const canvas = new OffscreenCanvas(img.naturalWidth, img.naturalHeight);
    const ctx = canvas.getContext('2d')!;
    ctx.drawImage(img, 0, 0);
    const { data } = ctx.getImageData(0, 0, canvas.width, canvas.height);
    return new Set(Array.from({ length: data.length / 4 }, (_, i) => `${data[4 * i]! >> 4},${data[4 * i + 1]! >> 4}`))
      .size;
  });
  expect(colours).toBeGreaterThan(5);
});

test('what passes through the pose on the stage is found, on the same feet if wanted', async () => {
  await open('/library?q=tag:rope+-kind:pose');
  const name = await page.getByLabel('Name', { exact: true }).inputValue();
  await expect(page.getByText(/out of 100 on|reading the motion|looks like/).first()).toBeVisible();
  await page.waitForTimeout(1500);
  await page.keyboard.press('n');
  await expect(page.getByRole('button', { name: 'Remove has a pose like the one chosen' })).toBeVisible();
  await expect(options().filter({ hasText: name }).first()).toBeVisible();
  await page.getByRole('button', { name: 'on the same feet' }).click();
  await expect(page).toHaveURL(/support=true/);
  await page.keyboard.press('Escape');
  await expect(page).not.toHaveURL(/pose=/);
});

test('items become a pack, which opens', async () => {
  await open('/library?q=tag:rope+-kind:pose');
  await page.keyboard.press('Control+a');
  await page.getByRole('toolbar', { name: 'For everything selected' }).getByRole('button', { name: 'Pack' }).click();
  await open('/library?q=kind:pack');
  await page.getByRole('button', { name: `Open the pack: ${COUNT / 2} items` }).click();
  await expect(page).toHaveURL(/pack=/);
  await expect(options()).toHaveCount(COUNT / 2);
});

test('items stand in sequence: played on from one to the next, taken apart and put back', async () => {
  await open('/library?q=tag:rope+-kind:pose');
  await page.keyboard.press('Control+a');
  await page
    .getByRole('toolbar', { name: 'For everything selected' })
    .getByRole('button', { name: 'Sequence' })
    .click();
  await expect(page.getByText(`Put ${COUNT / 2} items in sequence`)).toBeVisible();
  const name = page.getByLabel('Name', { exact: true });
  await options().first().click();
  const first = await name.inputValue();
  const leave = page.getByRole('button', { name: /from the sequence/ });
  await expect(leave).toHaveCount(1);
  await page.getByRole('button', { name: /^Play this, then/ }).click();
  await expect(name).not.toHaveValue(first);
  await options().first().click();
  await leave.click();
  await expect(page.getByText('leads to nothing yet')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(leave).toHaveCount(1);
});

test('many go out as one archive, in their folders', async () => {
  await open('/library?q=tag:rope+-kind:pose');
  await page.keyboard.press('Control+a');
  await expect(page.getByText(`${COUNT / 2} selected`)).toBeVisible();
  await page.keyboard.press('e');
  await page.getByRole('combobox', { name: 'Format' }).click();
  await page.getByRole('option', { name: /BVH/ }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: `Save ${COUNT / 2} as ZIP` }).click(),
  ]);
  const files = unzipSync(new Uint8Array(readFileSync((await download.path())!)));
  expect(Object.keys(files)).toHaveLength(COUNT / 2);
  expect(Object.keys(files).every((name) => name.startsWith('night/haul/'))).toBe(true);
  const back = await importFile(Object.values(files)[0]!, 'out.bvh');
  expect(back.clips[0]!.motion.frameCount).toBeGreaterThan(40);
});

test('a colleague’s change appears by itself; presence is shown', async () => {
  await open('/library?q=tag:rope+-kind:pose');
  await options().nth(1).click();
  const name = await page.getByLabel('Name', { exact: true }).inputValue();
  await enter(other, 'noor');
  await other.goto(page.url());
  await expect(other.getByLabel('Name', { exact: true })).toHaveValue(name);
  await expect(page.getByText('Noor has this open as well')).toBeVisible();
  await other.getByLabel('Name', { exact: true }).fill(`${name}, calm`);
  await other.keyboard.press('Enter');
  await expect(options().filter({ hasText: `${name}, calm` })).toBeVisible();
});

test('two who change the same see both versions, and nothing is lost', async () => {
  if (!page.url().includes('item=')) {
    await open('/library?q=tag:rope+-kind:pose');
    await options().nth(1).click();
  }
  await enter(other, 'noor');
  const id = new URL(page.url()).searchParams.get('item')!;
  const before = (await call<{ note: string }>(page, 'GET', `/items/${id}`)).body.note;
  // Noor writes while Ilse's field still shows the old note
  await page.getByLabel('Note').fill('Ilse’s note');
  await call(other, 'PATCH', `/items/${id}`, { change: { note: 'Noor’s note' } });
  const answer = await call<{ details: { conflicts: unknown[] } }>(page, 'PATCH', `/items/${id}`, {
    change: { note: 'Ilse’s note' },
    expected: { note: before },
  });
  expect(answer.status).toBe(409);
  expect(answer.body.details.conflicts).toMatchObject([{ field: 'note', theirs: 'Noor’s note', yours: 'Ilse’s note' }]);
  expect((await call<{ note: string }>(page, 'GET', `/items/${id}`)).body.note).toBe('Noor’s note');
});

test('a closed folder keeps an animator out until a librarian grants what was asked for', async () => {
  const haul = (await call<{ id: string; name: string }[]>(page, 'GET', '/folders')).body.find(
    (f) => f.name === 'haul',
  )!;
  await page.goto(`/library?folder=${haul.id}`);
  await page.getByRole('button', { name: 'Restrict who can change haul' }).click();
  await enter(other, 'noor');
  await other.goto(`/library?folder=${haul.id}`);
  await expect(other.getByLabel('Name', { exact: true })).toHaveAttribute('readonly', '');
  await other.getByRole('button', { name: /Restricted/ }).click();
  await other.getByLabel('What for').fill('the night watch');
  await other.getByRole('button', { name: 'Ask', exact: true }).click();
  await page.goto('/people');
  await expect(page.getByText('the night watch')).toBeVisible();
  await page.getByRole('button', { name: 'Grant' }).click();
  await expect(other.getByLabel('Name', { exact: true })).not.toHaveAttribute('readonly', '');
});

test('a viewer looks and exports, and is told what takes more', async ({ browser }) => {
  const teo = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await enter(teo, 'teo');
  await teo.goto('/library?q=tag:rope+-kind:pose');
  await expect(teo.getByRole('button', { name: 'Change', exact: true })).toBeDisabled();
  expect((await call(teo, 'PATCH', '/items', { ids: ['x'], change: { name: 'y' } })).status).toBe(403);
  expect((await call(teo, 'POST', '/people', {})).status).toBe(403);
  expect((await call(teo, 'POST', '/bin/destroy', { ids: ['x'] })).status).toBe(403);
  await teo.goto('/intake');
  await expect(teo.getByText('You can look around, but not import files')).toBeVisible();
  await teo.close();
});

test('a selection goes onto a character as one job with a report', async () => {
  await page.goto('/intake');
  // a bare skeleton joins the cast
  await page.getByRole('button', { name: 'Add its skeleton to the cast' }).first().click();
  await expect(page.getByText(/skeleton is in the cast/)).toBeVisible();
  await open('/library?q=tag:rope+-kind:pose');
  await page.keyboard.press('Control+a');
  await page
    .getByRole('toolbar', { name: 'For everything selected' })
    .getByRole('button', { name: 'Fit to …' })
    .click();
  const dialog = page.getByRole('dialog');
  for (const box of await dialog.getByRole('checkbox').all()) await box.uncheck();
  await dialog
    .getByLabel(/skeleton/)
    .first()
    .check();
  await dialog.getByRole('button', { name: /^Fit onto/ }).click();
  await expect(dialog).toHaveCount(0);
  await page.goto('/intake');
  const job = page.getByRole('region', { name: new RegExp(`${COUNT / 2} items onto`) });
  await expect(job.getByText(`${COUNT / 2} of ${COUNT / 2}`)).toBeVisible();
  await job.getByRole('button', { name: new RegExp(`^${COUNT / 2} items onto`) }).click();
  await expect(job.getByText(/slip .* direction/).first()).toBeVisible();
});

test('the bin keeps, gives back, and destroys only what nobody uses, after asking', async () => {
  await open('/library?q=kind:pose');
  await page.getByRole('button', { name: 'Move to the bin' }).click();
  await page.goto('/library?bin=true');
  await expect(options()).toHaveCount(1);
  await page.getByRole('button', { name: 'Empty the bin …' }).click();
  await expect(page.getByText('1 item in the bin, none in use')).toBeVisible();
  await page.getByRole('button', { name: 'Destroy 1 item' }).click();
  await expect(page.getByText('The bin is empty')).toBeVisible();
});

test('a program with a key does what its person may; without it nothing', async ({ request }) => {
  await page.goto('/people');
  const newKey = async (name: string): Promise<{ authorization: string }> => {
    await page.getByLabel('Name of a new key').fill(name);
    await page.keyboard.press('Enter');
    const token = (await page.getByRole('dialog').locator('code').textContent())!;
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
    return { authorization: `Bearer ${token}` };
  };
  const sent = () => ({
    file: { name: 'by program.bvh', mimeType: 'text/plain', buffer: Buffer.from(take(77)) },
  });
  // a new key only reads, until it is given more
  const reader = await newKey('wall display');
  expect((await request.get('/api/v1/items?limit=1', { headers: reader })).status()).toBe(200);
  expect((await request.post('/api/v1/intake', { headers: reader, multipart: sent() })).status()).toBe(403);
  await page.getByRole('combobox', { name: 'What the new key may do' }).click();
  await page.getByRole('option', { name: 'reads and changes' }).click();
  const headers = await newKey('render farm');
  expect((await request.get('/api/v1/tokens', { headers })).status()).toBe(403);
  const list = await request.get('/api/v1/items?q=tag:rope&limit=3&facets=1', { headers });
  expect(list.status()).toBe(200);
  const { items, found } = (await list.json()) as { items: { id: string }[]; found: number };
  expect(items).toHaveLength(3);
  expect(found).toBeGreaterThanOrEqual(COUNT / 2);
  const bvh = await request.get(`/api/v1/items/${items[0]!.id}/export?format=bvh`, { headers });
  expect((await bvh.body()).toString('utf8')).toMatch(/^HIERARCHY/);
  const upload = await request.post('/api/v1/intake', { headers, multipart: sent() });
  expect(((await upload.json()) as { state: string }).state).toBe('done');
  expect((await request.get('/api/v1/items')).status()).toBe(401);
  expect((await request.get('/api/v1/items', { headers: { authorization: 'Bearer vr_nothing' } })).status()).toBe(401);
  expect((await request.get('/api/v1/nothing', { headers })).status()).toBe(404);
  expect((await request.put('/api/v1/items', { headers, data: {} })).status()).toBe(405);
  const document = (await (await request.get('/api/v1/openapi.json')).json()) as { openapi: string; paths: object };
  expect(document.openapi).toBe('3.1.0');
  expect(Object.keys(document.paths).length).toBeGreaterThan(40);
});

test('nothing broke on the way', () => {
  expect(failures).toEqual([]);
});
