// The public face of the computation. Everything here is pure: typed arrays in, typed arrays out, MotionError on bad input.

export * from './analysis/descriptor';
export * from './analysis/duplicates';
export * from './analysis/facts';
export { type FitScore, scoreFit } from './analysis/fit-score';
export { type FitProfile, type FitSketch, fitProfile, sketchFit } from './analysis/fit-sketch';
export { sketchFromBytes, sketchToBytes } from './analysis/fit-sketch-bytes';
export * from './analysis/holds';
export * from './analysis/plants';
export * from './analysis/pose-features';
export { describePoses, MOST_POSES, POSE_RECORD, poseCount, poseRecord, supportAt } from './analysis/poses';
export * from './analysis/strip';
export { type Prop, SUGGEST_FROM, suggestWords, type Word } from './analysis/words';
export * from './bodymap/guess';
export * from './bodymap/json';
export * from './bodymap/slots';
export { unpackMotion, unpackRange } from './codec/decode';
export { PACK_DEFAULTS, type PackOptions, packMotion } from './codec/encode';
export { largestError } from './codec/error';
export * from './errors';
export { readAmc } from './formats/amc-read';
export { skeletonFileFor } from './formats/asf-pair';
export { readAsf } from './formats/asf-read';
export { readBvh } from './formats/bvh-read';
export { writeBvh } from './formats/bvh-write';
export { type CsvOptions, writeCsv } from './formats/csv-write';
export { type NamedMotion, readGltf } from './formats/gltf-read';
export { type GlbContent, writeGlb } from './formats/gltf-write';
export {
  type Format,
  type Imported,
  type ImportOptions,
  importFile,
  MAX_FILE_BYTES,
  sniffFormat,
} from './formats/import';
export { applyKeys, type Keys, keyCount, reduceKeys } from './formats/key-reduce';
export { type MotionJson, motionFromJson, motionToJson } from './formats/motion-json';
export * from './join/loop-close';
export * from './join/loop-find';
export * from './join/seam';
export * from './layer/offsets';
export { angleBetweenQuats as angleBetween } from './math/quat';
export { seeded } from './math/random';
export * from './mirror/mirror';
export * from './mirror/pairing';
export * from './motion/motion';
export { alignmentTurns } from './retarget/alignment';
export { type CrossingReport, type Girths, girthsOf, measureCrossings } from './retarget/crossing';
export { HAND_MODES, type HandGoal, type HandMode, handGoalsFor } from './retarget/hand-goals';
export { defaultLimits, keepLimits, type Limit, type Limits, measureLimits } from './retarget/limits';
export { type Party, type Plan, planRetarget } from './retarget/plan';
export { type Lane, measure, type Report, type Trouble } from './retarget/report';
export {
  RETARGET_DEFAULTS,
  type Retargeted,
  type RetargetOptions,
  reportOf,
  retarget,
  solve,
  TRAVELS,
  type Travel,
} from './retarget/retarget';
export { type Steadiness, steadiness } from './retarget/steadiness';
export * from './rig/body';
export * from './rig/figure';
export { findTPose, type RestKind, restKind } from './rig/rest-kind';
export * from './rig/rig';
export * from './rig/rig-json';
export { skeletonsOf } from './rig/skeletons';
export * from './tune/clean';
export * from './tune/posture';
export { type KeptRegions, keepRegions, keptRegions, REGIONS, type Region, regionsOf } from './tune/regions';
export * from './tune/timing';
export * from './tune/travel';
export * from './tune/tune';
