import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import { cookAnise } from '../demo/cutouts/cook-anise';
import { gullCaptain } from '../demo/cutouts/gull-captain';
import { lanternToss } from '../demo/cutouts/lantern-toss';
import { performAll } from '../demo/world';
import { boxOverTime, CutoutShow, cutoutFromSvg, renderSvg, sceneFromJson, writeBvh } from '../motion/index';
import { moveRoots } from '../motion/tune/place';
import { call, enter } from './people';
import { bringIn } from './walkers';

// A layered drawing from the file to a film of it: into the cast, pins moved, driven by a take, drawings chosen, written out.
test.describe.configure({ mode: 'serial' });

const folder = mkdtempSync(join(tmpdir(), 'velvet-cutouts-'));
let page: Page;
const failures: string[] = [];
const id: Record<string, string> = {};

interface Member {
  id: string;
  name: string;
  rigId: string;
  assets: { art?: string };
}

test.beforeAll(async ({ browser }) => {
  const { actor, performances } = performAll((s) => s.name === 'Wave to shore');
  const take = join(folder, 'Paper, wave.bvh');
  const { rig, map } = actor;
  writeFileSync(take, writeBvh(rig, moveRoots({ rig, map }, performances[0]!.motion, [0.02, 0, 0], 0)));
  const captain = join(folder, 'Paper captain.svg');
  // a script that came along never runs anywhere
  writeFileSync(
    captain,
    gullCaptain().replace(
      '</svg>',
      '<script>window.ran = true</script><image href="x" onerror="window.ran = true"/></svg>',
    ),
  );
  page = await browser.newPage();
  page.on('pageerror', (error) => failures.push(error.message));
  await enter(page);
  await page.goto('/intake');
  await page.getByLabel('Choose files').setInputFiles([captain, take]);
  await expect(page.getByRole('link', { name: 'Paper captain' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Paper, wave' })).toBeVisible();
  const cast = (await call<Member[]>(page, 'GET', '/cast')).body;
  id.captain = cast.find((c) => c.name === 'Paper captain')!.id;
  const q = encodeURIComponent('"Paper, wave"');
  id.take = (await call<{ items: { id: string }[] }>(page, 'GET', `/items?q=${q}`)).body.items[0]!.id;
});

test.afterAll(async () => {
  expect(failures).toEqual([]);
  await page.close();
});

const cast = async (): Promise<Member[]> => (await call<Member[]>(page, 'GET', '/cast')).body;
const captain = async (): Promise<Member> => (await cast()).find((c) => c.id === id.captain)!;
const named = async (name: string): Promise<Member> => (await cast()).find((c) => c.name === name)!;

interface Row {
  id: string;
  name: string;
  kind: string;
  keysHash: string | null;
}
const find = async (name: string): Promise<Row | undefined> =>
  (await call<{ items: Row[] }>(page, 'GET', `/items?q=${encodeURIComponent(name)}`)).body.items.find(
    (i) => i.name === name,
  );

test('put together from its parts, a figure looks as its file does', async ({ browser }) => {
  const sheet = await browser.newPage();
  for (const svg of [gullCaptain(), cookAnise()]) {
    const ours = renderSvg(cutoutFromSvg(new TextEncoder().encode(svg)));
    const off = await sheet.evaluate(
      async (pair) => {
        const pixels = async (text: string): Promise<Uint8ClampedArray> => {
          const image = new Image();
          image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
          await image.decode();
          const canvas = document.createElement('canvas');
          [canvas.width, canvas.height] = [600, 900];
          const context = canvas.getContext('2d')!;
          context.drawImage(image, 0, 0, 600, 900);
          return context.getImageData(0, 0, 600, 900).data;
        };
        const [a, b] = [await pixels(pair[0]!), await pixels(pair[1]!)];
        let count = 0;
        for (let i = 0; i < a.length; i += 4)
          if ([0, 1, 2, 3].some((k) => Math.abs(a[i + k]! - b[i + k]!) > 8)) count++;
        return count / (600 * 900);
      },
      [svg, ours.replace('<svg ', '<svg width="600" height="900" preserveAspectRatio="none" ')],
    );
    expect(off).toBeLessThan(0.005);
  }
  await sheet.close();
});

test('what should run in a drawing does not, and is not kept', async () => {
  const { assets } = await captain();
  const kept = await page.evaluate(async (hash) => (await fetch(`/api/v1/files/${hash}`)).text(), assets.art!);
  expect(kept).not.toMatch(/script|onerror|window\.ran/);
  await page.goto(`/cast?member=${id.captain}&tab=parts`);
  await expect(page.getByRole('img', { name: 'Paper captain, drawn from its parts' })).toBeVisible();
  expect(await page.evaluate(() => 'ran' in window)).toBe(false);
});

test('its pins can be moved by the keyboard, and that can be undone', async () => {
  const before = await captain();
  const pin = page.getByRole('slider', { name: 'Pivot of forearm L' });
  const at = await pin.getAttribute('aria-valuetext');
  await pin.focus();
  await pin.press('Shift+ArrowRight');
  await expect(pin).not.toHaveAttribute('aria-valuetext', at!);
  expect((await captain()).rigId).not.toBe(before.rigId);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(pin).toHaveAttribute('aria-valuetext', at!);
  expect((await captain()).rigId).toBe(before.rigId);
});

test('its drawings stand in a table by label', async () => {
  await page.getByRole('tab', { name: 'Drawings' }).click();
  await expect(page.getByRole('img', { name: 'eye L: shut' })).toBeVisible();
  await expect(page.getByRole('img', { name: 'hand R: fist' })).toBeVisible();
});

test('a take drives it, a blink is copied by label, and no joint is changed by that', async () => {
  await page.goto(`/fitting?pane=drawings&item=${id.take}&cast=${id.captain}`);
  await expect(page.getByText(/score \d+/)).toBeVisible();
  await page.getByRole('button', { name: 'eye L', exact: true }).click();
  const choose = page.getByRole('toolbar', { name: 'Drawings of eye L' });
  for (const [steps, label] of [
    [8, 'shut'],
    [4, 'open'],
  ] as const) {
    for (let i = 0; i < steps; i++) await page.keyboard.press('Period');
    await choose.getByRole('button', { name: label }).click();
    await expect(choose.getByRole('button', { name: label })).toHaveAttribute('aria-pressed', 'true');
  }
  await page.getByRole('combobox', { name: 'The same on' }).click();
  await page.getByRole('option', { name: 'eye R', exact: true }).click();
  interface Kept {
    edits: { exposures?: { part: string; keys: { label: string }[] }[]; corrections: unknown[] } | null;
  }
  await expect
    .poll(async () => {
      const { edits } = (await call<Kept>(page, 'GET', `/cast/${id.captain}/fittings/${id.take}`)).body;
      return edits?.exposures?.map((e) => [e.part, ...e.keys.map((k) => k.label)].join(' ')) ?? [];
    })
    .toEqual(['eye L shut open', 'eye R shut open']);
  const { edits } = (await call<Kept>(page, 'GET', `/cast/${id.captain}/fittings/${id.take}`)).body;
  expect(edits!.corrections).toEqual([]);
});

test('what is written for players is played by one as the stage shows it', async ({ browser }) => {
  const written = async (format: string): Promise<string> =>
    page.evaluate(
      async ([item, cast, f]) => (await fetch(`/api/v1/items/${item}/export?format=${f}&onto=${cast}`)).text(),
      [id.take!, id.captain!, format],
    );
  const [animation, scene] = [JSON.parse(await written('lottie')), JSON.parse(await written('json'))];
  expect(scene.frames).toHaveLength(animation.op);
  const { figure, motion } = sceneFromJson(scene);
  const player = await browser.newPage();
  const require = createRequire(import.meta.url);
  await player.setContent('<div id="film"></div>');
  await player.addScriptTag({
    content: readFileSync(require.resolve('lottie-web/build/player/lottie_svg.min.js'), 'utf8'),
  });
  for (const frame of [0, 40, 80]) {
    // a film has whole pixels: the same corner, and as large as the film
    const [left, top] = boxOverTime(new CutoutShow(figure.rig, figure.art, motion));
    const box = [left, top, animation.w, animation.h] as const;
    const ours = renderSvg(figure, { motion, seconds: frame / motion.fps, box });
    const off = await player.evaluate(
      async ({ data, at, svg, w, h }) => {
        const holder = document.getElementById('film')!;
        holder.innerHTML = '';
        const film = (
          window as unknown as {
            lottie: { loadAnimation: (o: object) => { goToAndStop: (f: number, frames: boolean) => void } };
          }
        ).lottie.loadAnimation({
          container: holder,
          renderer: 'svg',
          autoplay: false,
          loop: false,
          animationData: JSON.parse(data),
        });
        film.goToAndStop(at, true);
        const played = holder.querySelector('svg')!;
        played.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
        played.setAttribute('width', String(w));
        played.setAttribute('height', String(h));
        played.removeAttribute('style');
        const pixels = async (text: string): Promise<Uint8ClampedArray> => {
          const image = new Image();
          image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
          await image.decode();
          const canvas = document.createElement('canvas');
          [canvas.width, canvas.height] = [w, h];
          const context = canvas.getContext('2d')!;
          context.fillStyle = '#888';
          context.fillRect(0, 0, w, h);
          context.drawImage(image, 0, 0, w, h);
          return context.getImageData(0, 0, w, h).data;
        };
        const [a, b] = [await pixels(new XMLSerializer().serializeToString(played)), await pixels(svg)];
        let count = 0;
        for (let i = 0; i < a.length; i += 4) if ([0, 1, 2].some((k) => Math.abs(a[i + k]! - b[i + k]!) > 40)) count++;
        return count / (w * h);
      },
      {
        data: JSON.stringify(animation),
        at: frame,
        svg: ours.replace('<svg ', `<svg width="${animation.w}" height="${animation.h}" `),
        w: animation.w as number,
        h: animation.h as number,
      },
    );
    expect(off).toBeLessThan(0.01);
  }
  await player.close();
});

test('frames are written as pictures of one size, transparent around the figure', async () => {
  const address = `/api/v1/items/${id.take}/export?onto=${id.captain}&fps=6`;
  const scene = (await call<{ frames: unknown[] }>(page, 'GET', `${address.slice(7)}&format=json`)).body;
  const answer = await page.request.get(`${address}&format=png`);
  expect(answer.headers()['content-type']).toBe('application/zip');
  const files = Object.entries(unzipSync(new Uint8Array(await answer.body())));
  expect(files.map(([name]) => name)).toEqual(scene.frames.map((_, i) => `${String(i + 1).padStart(2, '0')}.png`));
  const seen = await page.evaluate(
    async (pictures) =>
      Promise.all(
        pictures.map(async (base64) => {
          const image = new Image();
          image.src = `data:image/png;base64,${base64}`;
          await image.decode();
          const canvas = new OffscreenCanvas(image.width, image.height);
          const context = canvas.getContext('2d')!;
          context.drawImage(image, 0, 0);
          const { data } = context.getImageData(0, 0, image.width, image.height);
          let drawn = 0;
          for (let i = 3; i < data.length; i += 4) if (data[i]! > 200) drawn++;
          return {
            size: `${image.width} x ${image.height}`,
            corner: data[3],
            share: drawn / (image.width * image.height),
          };
        }),
      ),
    files.slice(0, 4).map(([, bytes]) => Buffer.from(bytes).toString('base64')),
  );
  expect(new Set(seen.map((s) => s.size)).size).toBe(1);
  expect(seen[0]!.size).toMatch(/ x 1080$/);
  for (const { corner, share } of seen) {
    expect(corner).toBe(0);
    expect(share).toBeGreaterThan(0.2);
    expect(share).toBeLessThan(0.8);
  }
});

test('finished animation goes onto another figure as keys; what is said by hand counts, and keys come out', async () => {
  const json = 'application/json';
  await bringIn(page, [
    { name: 'Paper toss.json', mimeType: json, buffer: Buffer.from(lanternToss()) },
    { name: 'Paper cook.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(cookAnise()) },
  ]);
  const toss = (await find('Paper toss'))!;
  expect(toss.keysHash).not.toBeNull();
  const cook = await named('Paper cook');
  await page.goto(`/fitting?pane=swap&item=${toss.id}&cast=${cook.id}`);
  const lifted = (is: string) => page.getByRole('button', { name: `head at frame 32, ${is}` });
  await expect(lifted('on purpose')).toBeVisible();
  await expect(page.getByText('moved before and left out: lantern')).toBeVisible();
  // his head leaves his neck on purpose; hers need not
  await lifted('on purpose').click();
  await page.getByRole('button', { name: 'Closed a gap', exact: true }).click();
  await expect(lifted('closed a gap')).toBeVisible();
  await page.getByRole('button', { name: 'Keep as item' }).click();
  await expect.poll(async () => (await find('Paper toss on Paper cook'))?.keysHash ?? null).not.toBeNull();
  const kept = (await find('Paper toss on Paper cook'))!;
  const answer = await page.request.get(`/api/v1/items/${kept.id}/export?format=json`);
  const { keys } = sceneFromJson(await answer.json());
  const of = (joint: string, channel: string) => keys!.tracks.find((t) => t.joint === joint && t.channel === channel);
  expect(of('head', 'turn')!.keys.map((k) => k.frame)).toEqual([0, 18, 28, 54, 69, 84]);
  const neck = of('head', 'place')!.keys.map((k) => k.value[1]!);
  // what is left of the lift is the lower of its two keys
  expect(Math.max(...neck) - neck[0]!).toBeLessThan(0.08);
  expect(Math.max(...neck) - neck[0]!).toBeGreaterThan(0.04);
});

test('a range of parts and drawings is taken with a word on what is left out, bound or free, and goes onto another figure', async () => {
  const toss = (await find('Paper toss'))!;
  await page.goto(`/library?item=${toss.id}`);
  await page.getByRole('button', { name: 'Change', exact: true }).click();
  const panel = page.getByRole('region', { name: 'Change' });
  for (const region of ['hips', 'trunk', 'right arm', 'left leg', 'right leg']) {
    const chip = panel.getByRole('button', { name: region, exact: true });
    await chip.click();
    await expect(chip).toHaveAttribute('aria-pressed', 'false');
  }
  await expect(panel.getByText(/left out though they move: /)).toBeVisible();
  await expect(panel.getByText(/drawings left out though they change: .*hand R/)).toBeVisible();
  await expect(panel.getByText('what you keep of it stays keys')).toBeVisible();
  await panel.getByLabel('First frame').fill('11');
  await panel.getByLabel('First frame').press('Enter');
  await panel.getByLabel('Last frame').fill('61');
  await panel.getByLabel('Last frame').press('Enter');
  await panel.getByLabel('Name of the new item').fill('Paper nod');
  await panel.getByRole('button', { name: 'Keep as a new item' }).click();
  await expect.poll(async () => (await find('Paper nod'))?.keysHash ?? null).not.toBeNull();
  const nod = (await find('Paper nod'))!;
  const scene = sceneFromJson(await (await page.request.get(`/api/v1/items/${nod.id}/export?format=json`)).json());
  expect(scene.motion.frameCount).toBe(51);
  const joints = new Set(scene.keys!.tracks.map((t) => t.joint));
  expect(joints.has('head')).toBe(true);
  expect([...joints].filter((j) => /leg|thigh|shin|foot|hips/.test(j))).toEqual([]);
  // bound to its figure it goes on no other
  const cook = await named('Paper cook');
  await page.goto(`/library?item=${nod.id}`);
  await page.getByRole('switch', { name: 'For Paper captain alone' }).click();
  await expect(page.getByText('for Paper captain alone', { exact: true })).toBeVisible();
  const refused = await call<{ message: string }>(page, 'POST', '/jobs/fit', { itemIds: [nod.id], castIds: [cook.id] });
  expect(refused.status).toBe(400);
  await page.getByRole('switch', { name: 'For Paper captain alone' }).click();
  await expect(page.getByText('made for Paper captain, free for any')).toBeVisible();
  await page.goto(`/fitting?item=${nod.id}&cast=${cook.id}`);
  await page.getByRole('button', { name: 'Keep as item' }).click();
  await expect.poll(async () => (await find('Paper nod on Paper cook'))?.keysHash ?? null).not.toBeNull();
});

test('drawings alone are an exposure, and nothing moves in it', async () => {
  const toss = (await find('Paper toss'))!;
  await page.goto(`/library?item=${toss.id}`);
  await page.getByRole('button', { name: 'Change', exact: true }).click();
  const panel = page.getByRole('region', { name: 'Change' });
  await panel.getByRole('combobox', { name: 'What is kept of these parts' }).click();
  await page.getByRole('option', { name: 'drawings alone' }).click();
  await panel.getByLabel('Name of the new item').fill('Paper faces');
  await panel.getByRole('button', { name: 'Keep as a new item' }).click();
  await expect.poll(async () => (await find('Paper faces'))?.kind).toBe('exposure');
  const faces = (await find('Paper faces'))!;
  const { keys } = sceneFromJson(await (await page.request.get(`/api/v1/items/${faces.id}/export?format=json`)).json());
  expect(keys!.tracks).toEqual([]);
  expect(keys!.steps.length).toBeGreaterThan(2);
});

test('hands that two people drew come together, from a figure and from a set that is kept', async () => {
  const count = async (): Promise<number> => {
    const member = await captain();
    const art = await page.evaluate(async (hash) => (await fetch(`/api/v1/files/${hash}`)).json(), member.assets.art!);
    return (art as { drawings: { part: string }[] }).drawings.filter((d) => /^hand/.test(d.part)).length;
  };
  const before = await count();
  // a colleague drew the same parts, with another fist
  const other = gullCaptain().replaceAll(/(inkscape:label="fist"[^>]*><ellipse[^>]*fill=")#f3ead6/g, '$1#d9a06a');
  await bringIn(page, [{ name: 'Paper colleague.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(other) }]);
  const colleague = await named('Paper colleague');
  await page.goto(`/cast?member=${colleague.id}&tab=drawings`);
  await page
    .getByRole('region', { name: 'hand', exact: true })
    .getByRole('button', { name: 'Keep as drawings' })
    .click();
  await expect.poll(async () => (await find('Paper colleague: hand'))?.kind).toBe('drawings');
  const set = (await find('Paper colleague: hand'))!;
  await page.goto(`/library?item=${set.id}`);
  await page.getByRole('button', { name: 'Add to a figure' }).click();
  const dialog = page.getByRole('dialog', { name: /^Add drawings to / });
  await expect(dialog).toBeVisible();
  // whoever comes first in the cast is offered; the captain is asked for
  await page.goto(`/cast?member=${id.captain}&tab=drawings&set=${set.id}`);
  // a label that shows another hand here gets a number behind it
  await expect(dialog.getByText(/fist as fist \(2\)/).first()).toBeVisible();
  await dialog.getByRole('button', { name: /^Add \d+ drawings$/ }).click();
  await expect(dialog).toBeHidden();
  await expect.poll(count).toBeGreaterThan(before);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(count).toBe(before);
});

test('a body’s motion and a paper figure’s are found by each other', async () => {
  await page.goto(`/fitting?item=${id.take}&cast=${id.captain}`);
  await page.getByRole('button', { name: 'Keep as item' }).click();
  await expect.poll(async () => (await find('Paper, wave on Paper captain'))?.kind).toBeDefined();
  const kept = (await find('Paper, wave on Paper captain'))!;
  await page.goto(`/library?item=${kept.id}`);
  await page.getByRole('button', { name: 'More like this' }).click();
  await expect(page.getByRole('button', { name: /Remove moves like Paper, wave on/ })).toBeVisible();
  const like = (await call<{ items: Row[] }>(page, 'GET', `/items?like=${kept.id}`)).body.items.map((i) => i.name);
  expect(like.slice(0, 3)).toContain('Paper, wave');
});

test('on a reel a drawing is set at the playhead on a lane of its own, and a part goes a step nearer', async () => {
  const { body } = await call<{ id: string }>(page, 'POST', '/reels', {
    name: 'Paper by hand',
    fps: 24,
    frames: 60,
    members: [{ id: 'captain', castId: id.captain, order: 0, muted: false, base: [], overlays: [], keys: [] }],
  });
  await page.goto(`/reels?reel=${body.id}`);
  const panel = page.getByRole('complementary', { name: 'Reel' });
  await panel.getByRole('searchbox').fill('Paper, wave');
  await panel.getByRole('button', { name: 'Lay Paper, wave behind' }).focus();
  await page.keyboard.press('Enter');
  await panel.getByRole('tab', { name: 'By hand' }).click();
  const drawings = panel.getByRole('region', { name: 'Drawings' });
  await drawings.getByRole('combobox', { name: 'What is chosen' }).click();
  await page.getByRole('option', { name: 'drawings of mouth', exact: true }).click();
  await drawings.getByRole('button', { name: 'o', exact: true }).click();
  const lanes = page.getByRole('region', { name: 'Lanes' });
  await expect(lanes.getByRole('button', { name: /^mouth: o from frame/ }).locator('img')).toBeVisible();
  await drawings.getByRole('button', { name: 'A step forward' }).click();
  await expect(lanes.getByRole('button', { name: /^order: .* nearer from frame/ })).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
  // it is there after a reload
  await page.reload();
  await expect(lanes.getByRole('button', { name: /^mouth: o from frame/ })).toBeVisible();
  const reel = await call<{ content: { members: { labels: { name: string }[] }[] } }>(page, 'GET', `/reels/${body.id}`);
  expect(reel.body.content.members[0]!.labels.map((l) => l.name)).toEqual(['mouth', 'order']);
});
