import type { ReadyItem } from '../body/readiness';
import { type BodyMap, jointOf, SIDES } from '../bodymap/slots';
import type { CutoutRig } from '../rig/rig';
import { viewsOf } from './drive-head';
import type { CutoutArt } from './figure';
import { paintedIn } from './painted';

/** Paint so near a joint, a share of the picture’s height, lies under it. */
const NEAR = 0.02;
const SIDE = { L: 'left', R: 'right' } as const;

/**
 * What a cut-out can be driven by, and what will stand in the way: a waist, limbs in pieces, a head that hangs on the body,
 * drawings that reach under their joints, parts that pull against a motion.
 */
export function readinessOfCutout(rig: CutoutRig, map: BodyMap, art: CutoutArt): ReadyItem[] {
  const out: ReadyItem[] = [];
  const add = (state: ReadyItem['state'], text: string, why: string): void => {
    out.push({ state, text, why });
  };
  const has = (slot: string): boolean => jointOf(map, slot) >= 0;
  // (1) the trunk
  if (!has('hips')) add('stops', 'There is no trunk', 'Name one, or choose the part that everything hangs on.');
  else if (has('spine1')) add('fine', 'The waist bends', 'Pelvis and chest are parts of their own.');
  else add('limits', 'There is no waist', 'The trunk is one piece: it leans as a whole.');
  // (2) the head
  const head = jointOf(map, 'head');
  if (head < 0) add('limits', 'There is no head', 'Nothing will turn with the performer’s head.');
  else if (rig.parents[head]! < 0) add('stops', 'The head floats free', 'Hang it on the neck or the trunk.');
  else {
    const views = viewsOf(rig, head);
    add(
      'fine',
      views.length > 1 ? `The head turns through ${views.length} views` : 'The head hangs on the body',
      views.length > 1
        ? `${views.join(', ')}; other directions show the nearest.`
        : 'It is drawn in one view and keeps it.',
    );
  }
  // (3) limbs
  for (const side of SIDES) {
    const [arm, forearm] = [has(`upperArm${side}`), has(`forearm${side}`)];
    if (!arm) add('limits', `The ${SIDE[side]} arm is missing`, 'No part was found for it.');
    else if (!forearm) add('limits', `The ${SIDE[side]} arm does not bend`, 'It is one piece.');
    const [thigh, shin, foot] = [has(`thigh${side}`), has(`shin${side}`), has(`foot${side}`)];
    if (!thigh) add('limits', `The ${SIDE[side]} leg is missing`, 'No part was found for it.');
    else if (!shin)
      add(
        'limits',
        `The ${SIDE[side]} knee does not bend`,
        'The leg is one piece, so a foot on the ground pulls the hips along.',
      );
    else if (!foot) add('limits', `The ${SIDE[side]} foot does not roll`, 'It is part of the shin.');
  }
  if (SIDES.every((s) => has(`thigh${s}`) && has(`shin${s}`) && has(`foot${s}`)))
    add('fine', 'Feet can be held', 'Both legs bend at the knee and end in a foot.');
  // (4) art under the joints
  const painted = paintedIn(art, NEAR * art.box[3]);
  const bare = rig.parts.filter((part, i) => {
    const parent = rig.parents[part.joint]!;
    if (parent < 0 || !part.attachments.some((a) => a.name === 'end')) return false;
    const [x, y] = art.pivots[i]!;
    const covers = (name: string): boolean => art.drawings.some((d) => d.part === name && painted(d, x, y));
    return !covers(part.name) || !rig.parts.some((p) => p.joint === parent && covers(p.name));
  });
  if (bare.length > 0)
    add(
      'limits',
      bare.length === 1 ? `No drawing under the joint of ${bare[0]!.name}` : `No drawing under ${bare.length} joints`,
      `${bare.map((p) => p.name).join(', ')}: a gap will open when it turns. Let the drawings overlap, or move the pivot.`,
    );
  else add('fine', 'Drawings overlap at their joints', 'No gap opens when parts turn.');
  // (5) what pulls against a motion
  const pulled = Object.entries(rig.hinges ?? {}).filter(
    ([name, { swing = 0, level }]) =>
      (swing > 0 || level) && Object.values(map.slots).some((e) => e.joint === rig.names.indexOf(name)),
  );
  if (pulled.length > 0)
    add(
      'limits',
      pulled.length === 1 ? 'One part pulls against the motion' : `${pulled.length} parts pull against the motion`,
      `${pulled.map(([name]) => name).join(', ')} swing or keep level though the motion turns them.`,
    );
  const rank = { stops: 0, limits: 1, fine: 2 };
  return out.sort((a, b) => rank[a.state] - rank[b.state]);
}
