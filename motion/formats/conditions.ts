import type { RestKind } from '../body/rest-kind';
import type { Figure } from '../rig/figure';
import { childrenOf, type SkeletonRig } from '../rig/rig';

/** One condition that engines set to a character, and whether it is met. */
export interface EngineCondition {
  readonly code:
    | 'influences'
    | 'weights'
    | 'shapes'
    | 'joints only'
    | 'one root'
    | 'joint count'
    | 'names'
    | 'reference pose';
  readonly met: boolean;
  readonly words: string;
}

/** Joints that many engines take at most in one skeleton. */
const MOST_JOINTS = 256;
const MOST_INFLUENCES = 4;
/** Weights of a vertex may sum to 1 within this. */
const SUM = 1e-3;
const NAMED = 4;

const many = (n: number, one: string): string => `${n.toLocaleString('en')} ${one}${n === 1 ? '' : 's'}`;
const named = (names: readonly string[]): string =>
  names.length <= NAMED ? names.join(', ') : `${names.slice(0, NAMED).join(', ')} and ${names.length - NAMED} more`;

/**
 * What game engines usually ask of a character, condition by condition: at most four influences a vertex that sum to 1, face
 * shapes with names of their own, a skeleton of joints that carry something, one root, not too many joints, names that every
 * tool takes, a reference pose with its arms raised.
 * @param figure undefined for a bare skeleton, of which the skin cannot be judged
 */
export function engineConditions(rig: SkeletonRig, figure: Figure | undefined, rest: RestKind): EngineCondition[] {
  const out: EngineCondition[] = [];
  const children = childrenOf(rig);
  const carries = new Uint8Array(rig.names.length);
  if (figure) {
    let most = 0;
    let uneven = 0;
    for (const { joints, weights } of figure.meshes)
      for (let o = 0; o < weights.length; o += MOST_INFLUENCES) {
        let count = 0;
        let sum = 0;
        for (let k = o; k < o + MOST_INFLUENCES; k++) {
          const w = weights[k]!;
          if (w <= 0) continue;
          count++;
          sum += w;
          carries[joints[k]!] = 1;
        }
        most = Math.max(most, count);
        if (Math.abs(sum - 1) > SUM) uneven++;
      }
    out.push({
      code: 'influences',
      met: most <= MOST_INFLUENCES,
      words: `at most ${MOST_INFLUENCES} influences a vertex: ${most} at most here`,
    });
    out.push({
      code: 'weights',
      met: uneven === 0,
      words:
        uneven === 0
          ? 'weights of every vertex sum to 1'
          : `weights do not sum to 1 at ${many(uneven, 'point')} of the skin`,
    });
    const shapes = figure.meshes.map((m) => m.shapes.map((s) => s.name));
    const twice = shapes.flatMap((s) => s.filter((n, i) => s.indexOf(n) !== i));
    const count = new Set(shapes.flat()).size;
    out.push({
      code: 'shapes',
      met: twice.length === 0,
      words:
        twice.length > 0
          ? `face shapes with one name twice: ${named([...new Set(twice)])}`
          : count === 0
            ? 'no face shapes to keep'
            : `${many(count, 'face shape')} kept, each under its own name`,
    });
    // what carries skin further out is needed
    for (let j = rig.names.length - 1; j >= 0; j--) if (children[j]!.some((c) => carries[c])) carries[j] = 1;
    const idle = rig.names.filter((_, j) => !carries[j] && children[j]!.length > 0);
    out.push({
      code: 'joints only',
      met: idle.length === 0,
      words:
        idle.length === 0
          ? 'every joint carries skin, or ends what does'
          : `${many(idle.length, 'joint')} that carry no skin: ${named(idle)}`,
    });
  }
  const roots = rig.names.filter((_, j) => rig.parents[j]! < 0);
  out.push({
    code: 'one root',
    met: roots.length === 1,
    words: roots.length === 1 ? `one root: ${roots[0]}` : `${roots.length} roots: ${named(roots)}`,
  });
  out.push({
    code: 'joint count',
    met: rig.names.length <= MOST_JOINTS,
    words: `${many(rig.names.length, 'joint')}, of ${MOST_JOINTS} that engines usually take`,
  });
  const lower = rig.names.map((n) => n.toLowerCase());
  const odd = rig.names.filter((n, i) => !/^[A-Za-z0-9_.: -]+$/.test(n) || lower.indexOf(n.toLowerCase()) !== i);
  out.push({
    code: 'names',
    met: odd.length === 0,
    words: odd.length === 0 ? 'joint names that every tool takes' : `names that some tools refuse: ${named(odd)}`,
  });
  const raised = rest === 'T' || rest === 'A';
  out.push({
    code: 'reference pose',
    met: raised,
    words: raised ? `reference pose: ${rest}` : 'the reference pose is neither a T nor an A: arms hang or are turned',
  });
  return out;
}
