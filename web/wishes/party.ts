import {
  asSkeleton,
  type BodyMapJson,
  bodyMapFromJson,
  type CutoutKeys,
  type Fitter,
  keysFromJson,
  type Limits,
  poseOfTurns,
  type RigJson,
  radiiOf,
  rigFromJson,
  type SkinJson,
  skinFromJson,
  skinnedJoints,
} from '@velvet-reel/motion';

/** One side of a retarget as the database and the wire hold it. */
export interface PartyJson {
  rig: RigJson;
  map: BodyMapJson;
  restPose: number[] | null;
  /** A pose set for matching, apart from the bind pose: local turns, 4 J numbers, and where they came from. */
  match?: { turns: number[]; how: string } | null;
  /** Joint limits of its own, by slot; the common body's where null. */
  limits?: Limits | null;
  /** Left and right partners set by hand, by name. */
  pairs?: [string, string][] | null;
  floorM: number | null;
  /** How thick the skin is, where there is one. */
  skin?: SkinJson | null;
  /** Of a cut-out that a motion comes from: the keys that the motion was made of. */
  keys?: CutoutKeys | null;
}

/** Rebuilds one side of a retarget. Used in server threads and in the browser's worker. */
export function partyFromJson(json: PartyJson): Fitter {
  const whole = rigFromJson(json.rig);
  const rig = asSkeleton(whole);
  const n = rig.names.length;
  const pose =
    json.match?.turns.length === 4 * n
      ? poseOfTurns(rig, json.match.turns)
      : json.restPose?.length === 7 * n
        ? { r: Float64Array.from(json.restPose.slice(0, 4 * n)), p: Float64Array.from(json.restPose.slice(4 * n)) }
        : undefined;
  const map = bodyMapFromJson(json.map, rig);
  const skin = json.skin?.around.length === n ? skinFromJson(json.skin) : undefined;
  return {
    rig,
    map,
    cutout: whole.kind === 'cutout' ? whole : undefined,
    pose,
    floor: json.floorM ?? undefined,
    radii: skin && radiiOf({ rig, map }, skin),
    skinned: skin && skinnedJoints(skin),
    edges: skin?.edges,
    limits: json.limits ?? undefined,
    ...(json.keys && whole.kind === 'cutout' ? { keys: keysFromJson(json.keys, whole) } : {}),
    pairs: json.pairs
      ?.map(([a, b]): [number, number] => [rig.names.indexOf(a), rig.names.indexOf(b)])
      .filter((p) => p.every((j) => j >= 0)),
  };
}
