import { expect, type Page } from '@playwright/test';
import { guessBodyMap, motionToJson, restMotion, standIn } from '../motion/index';
import { axisAngleQuat } from '../motion/math/quat';
import { call } from './people';

/** A file with a standing body that bends one of its joints to and fro, for tests that bring their own motion. */
export function swayingFile(name: string, joint: string, frames = 40, heightM = 1.7) {
  const rig = standIn('A', heightM);
  const map = guessBodyMap(rig);
  const still = restMotion(rig);
  const n = rig.names.length;
  const turns = new Float32Array(4 * n * frames);
  for (let f = 0; f < frames; f++) {
    turns.set(still.turns.subarray(0, 4 * n), 4 * n * f);
    const swing = 0.3 * Math.sin((2 * Math.PI * f) / (frames - 1));
    axisAngleQuat(turns, 4 * (n * f + rig.names.indexOf(joint)), 1, 0, 0, swing);
  }
  const motion = { ...still, frameCount: frames, turns, places: [] };
  return {
    name: `${name}.json`,
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify(motionToJson(rig, [{ name, motion }], map))),
  };
}

/** Adds a stand-in to the cast. @returns its id */
export const addStandIn = async (page: Page, name: string, heightM = 1.7): Promise<string> =>
  (await call<{ id: string }>(page, 'POST', '/cast/stand-in', { name, rest: 'A', heightM })).body.id;

/** Brings files in by the Intake place, and waits until they are there. */
export async function bringIn(page: Page, files: readonly ReturnType<typeof swayingFile>[]): Promise<void> {
  await page.goto('/intake');
  await page.getByLabel('Choose files').setInputFiles([...files]);
  for (const { name } of files)
    await expect(page.getByRole('link', { name: name.replace(/\.(json|svg)$/, '') }).first()).toBeVisible();
}
