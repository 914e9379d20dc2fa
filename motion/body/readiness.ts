import { type BodyMap, CORE_SLOTS, chainOf, jointOf, slotLabel } from '../bodymap/slots';
import { isMarkerCloud, stanceOf } from '../bodymap/stance';
import { stiffLimbs } from '../bodymap/stiff-limbs';
import { distance3 } from '../math/vec';
import { restPose, type SkeletonRig } from '../rig/rig';
import type { Pairing } from './pairing';

/** One thing about a character that decides what can be done with it. */
export interface ReadyItem {
  /** stops: does not work; limits: partly works; fine: looked at and in order. */
  readonly state: 'stops' | 'limits' | 'fine';
  readonly text: string;
  readonly why: string;
}

/** What is known of the visible body; undefined for a bare skeleton. */
export interface SeenFigure {
  readonly vertices: number;
  readonly shapes: number;
  /** Joints that no vertex follows. */
  readonly bareJoints: readonly string[];
}

/**
 * What will work with a character and what will not, and why: the worst first.
 * Covers what a hand-over asks of it too: one root, at most four influences a vertex (more are never kept), joints that move a mesh.
 */
export function readinessOf(
  rig: SkeletonRig,
  map: BodyMap,
  pairing: Pairing,
  restIs: string,
  posed: boolean,
  figure?: SeenFigure,
): ReadyItem[] {
  const out: ReadyItem[] = [];
  const add = (state: ReadyItem['state'], text: string, why: string): void => {
    out.push({ state, text, why });
  };
  const has = (slot: string): boolean => jointOf(map, slot) >= 0;
  const empty = (slot: string): boolean => map.slots[slot]?.state === 'empty';
  const stance = stanceOf(map, restPose(rig));
  if (isMarkerCloud(rig))
    add(
      'stops',
      'These are markers, not a skeleton',
      'Its joints all hang from one point and form no limbs: solve the markers onto a skeleton first, then import that.',
    );
  else if (stance === 'four-legged')
    add(
      'limits',
      'It walks on four legs',
      'Its forelegs are mapped as arms. A person’s motion turns them as arms; feet are held at the hind legs alone.',
    );
  if (!has('hips'))
    add('stops', 'Travel cannot be carried over', 'No joint is mapped as the hips: choose one in the body map.');
  const legs = ['thigh', 'shin', 'foot'].flatMap((p) => [`${p}L`, `${p}R`]);
  const lost = legs.filter((s) => !has(s));
  const stiff = stiffLimbs(map);
  const stiffLegs = stiff.filter((l) => l.kind === 'leg').length === 2;
  const stiffArms = stiff.filter((l) => l.kind === 'arm').length === 2;
  if (stiffLegs)
    add(
      'limits',
      'Legs do not bend',
      'Each leg is a single joint and swings as a whole: the lower foot is kept on the ground, but feet are not held in place.',
    );
  else if (lost.length === legs.length) add('stops', 'Feet cannot be held', 'No leg is mapped.');
  else if (lost.length > 0)
    add('limits', 'Feet are held on one side at most', `${lost.map(slotLabel).join(', ')} have no joint.`);
  else add('fine', 'Feet can be held', 'Both legs are mapped from hip to foot.');
  const arms = ['upperArm', 'forearm', 'hand'].flatMap((p) => [`${p}L`, `${p}R`]).filter((s) => !has(s));
  if (stiffArms) add('limits', 'Arms do not bend', 'Each arm is a single joint: it points to where the hand would be.');
  else if (arms.length > 0)
    add('limits', 'Hands cannot keep their place everywhere', `${arms.map(slotLabel).join(', ')} have no joint.`);
  if (!stiffLegs && !has('toesL') && !has('toesR'))
    add(
      'limits',
      'The foot does not roll over its toes',
      `There are no toe joints; the sole ends where the foot does${empty('toesL') ? ', empty on purpose' : ''}.`,
    );
  if (!has('head')) add('limits', 'The head does not turn', 'No joint is the head.');
  if (chainOf(map, 'neck').length === 0 && has('head'))
    add('limits', 'The neck does not bend', 'There is no neck joint; the head takes over its rotation.');
  if (chainOf(map, 'spine').length === 0) add('limits', 'The back does not bend', 'There is no spine joint.');
  const guessed = Object.entries(map.slots).filter(([, e]) => e.state === 'guessed');
  if (guessed.length > 0)
    add(
      'limits',
      `${guessed.length} slots are guessed`,
      `${guessed
        .slice(0, 4)
        .map(([s]) => slotLabel(s))
        .join(', ')}: check them in the braid and confirm or change them.`,
    );
  const missing = CORE_SLOTS.filter((s) => map.slots[s]?.state === 'missing' && !legs.includes(s) && !arms.includes(s));
  if (missing.length > 0)
    add(
      'limits',
      missing.length === 1 ? 'One slot is missing' : `${missing.length} slots are missing`,
      `${missing.slice(0, 6).map(slotLabel).join(', ')}: give them a joint, or mark them as empty on purpose.`,
    );
  if (pairing.pairs.length === 0) add('stops', 'It cannot be mirrored', 'No joint has a partner on the other side.');
  else if (pairing.unpaired.length > 0)
    add(
      'limits',
      pairing.unpaired.length === 1
        ? 'One joint is not mirrored'
        : `${pairing.unpaired.length} joints are not mirrored`,
      `${pairing.unpaired
        .slice(0, 4)
        .map((j) => rig.names[j])
        .join(', ')} ${pairing.unpaired.length === 1 ? 'has' : 'have'} no partner.`,
    );
  else add('fine', 'It can be mirrored', `${pairing.pairs.length} pairs; every joint has a partner.`);
  const uneven = unevenLimbs(rig, map);
  if (uneven.length > 0)
    add('limits', 'Left and right differ', `${uneven.join(', ')}: a mirrored motion will not look the same.`);
  if (restIs === 'other' && !posed)
    add(
      'limits',
      'The rest pose is unusual',
      'It is neither a T-pose nor an A-pose: set a matching pose, or copy one from a similar rig.',
    );
  else
    add(
      'fine',
      posed ? 'A matching pose is set' : `Rests in ${restIs}`,
      posed ? 'The bind pose stays as it is.' : 'Arms are matched from it.',
    );
  const roots = rig.parents.filter((p) => p < 0).length;
  if (roots > 1)
    add(
      'limits',
      'There are several root joints',
      `${roots} joints have no parent; some programs accept only one root.`,
    );
  const short = rig.names.filter((_, j) => rig.parents[j]! >= 0 && lengthOf(rig, j) < 1e-5);
  if (short.length > 3)
    add(
      'limits',
      `${short.length} joints sit exactly on their parent`,
      `${short.slice(0, 3).join(', ')} and others: only their names and order tell them apart.`,
    );
  if (!figure) add('limits', 'It is shown as bones', 'The file has no mesh.');
  else {
    add(
      'fine',
      'At most four joints move a vertex',
      `${figure.vertices.toLocaleString('en')} vertices, weights sum to 1.`,
    );
    if (figure.shapes === 0) add('limits', 'A face cannot be moved', 'The mesh has no face shapes.');
    else add('fine', `${figure.shapes} face shapes`, 'They carry over where names match.');
  }
  const rank = { stops: 0, limits: 1, fine: 2 };
  return out.sort((a, b) => rank[a.state] - rank[b.state]);
}

const lengthOf = (rig: SkeletonRig, j: number): number =>
  Math.hypot(rig.restT[3 * j]!, rig.restT[3 * j + 1]!, rig.restT[3 * j + 2]!);

/** Bones of which one side is more than 2 % longer than the other. */
function unevenLimbs(rig: SkeletonRig, map: BodyMap): string[] {
  const { p } = restPose(rig);
  const bones: [string, string, string][] = [
    ['upper arms', 'upperArm', 'forearm'],
    ['forearms', 'forearm', 'hand'],
    ['thighs', 'thigh', 'shin'],
    ['shins', 'shin', 'foot'],
  ];
  return bones.flatMap(([name, a, b]) => {
    const [l, r] = (['L', 'R'] as const).map((s) => {
      const [i, k] = [jointOf(map, a + s), jointOf(map, b + s)];
      return i >= 0 && k >= 0 ? distance3(p, 3 * i, p, 3 * k) : Number.NaN;
    }) as [number, number];
    const by = Math.abs(l - r) / Math.max(l, r);
    return by > 0.02 ? [`${name} by ${(100 * by).toFixed(0)} %`] : [];
  });
}
