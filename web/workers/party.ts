import { type BodyMapJson, bodyMapFromJson, type Party, type RigJson, rigFromJson } from '@velvet-reel/motion';

/** One side of a retarget as the database and the wire hold it. */
export interface PartyJson {
  rig: RigJson;
  map: BodyMapJson;
  restPose: number[] | null;
  floorM: number | null;
}

/** Rebuilds one side of a retarget. Used in server threads and in the browser's worker. */
export function partyFromJson(json: PartyJson): Party {
  const rig = rigFromJson(json.rig);
  const n = rig.names.length;
  const pose =
    json.restPose?.length === 7 * n
      ? { r: Float64Array.from(json.restPose.slice(0, 4 * n)), p: Float64Array.from(json.restPose.slice(4 * n)) }
      : undefined;
  return { rig, map: bodyMapFromJson(json.map, rig), pose, floor: json.floorM ?? undefined };
}
