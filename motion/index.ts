// The public face of the computation. Everything here is pure: typed arrays in, typed arrays out, MotionError on bad input.

export { type Belt, carriedBy, findBelt } from './analysis/belt';
export * from './analysis/descriptor';
export * from './analysis/duplicates';
export * from './analysis/facts';
export { type FitScore, scoreFit } from './analysis/fit-score';
export { type FitProfile, type FitSketch, fitProfile, sketchFit } from './analysis/fit-sketch';
export { sketchFromBytes, sketchToBytes } from './analysis/fit-sketch-bytes';
export * from './analysis/holds';
export { partPlace } from './analysis/part-place';
export * from './analysis/plants';
export * from './analysis/pose-features';
export { describePoses, MOST_POSES, POSE_RECORD, poseCount, poseRecord, supportAt } from './analysis/poses';
export { type Steadiness, steadiness } from './analysis/steadiness';
export * from './analysis/strip';
export { stripFromBytes, stripToBytes } from './analysis/strip-bytes';
export { StripPoser } from './analysis/strip-poser';
export { unrolled } from './analysis/unrolled';
export { type Prop, SUGGEST_FROM, suggestWords, type Word } from './analysis/words';
export { type Raster, straightAlpha } from './art/raster';
export { type SpriteJson, SpriteSheet, spriteFiles, spriteHeight } from './art/sprites';
export { KEPT_ATTRIBUTES, KEPT_ELEMENTS } from './art/svg-clean';
export { alignmentTurns } from './body/alignment';
export * from './body/body';
export { type Radii, radiiOf } from './body/capsules';
export { fillSide } from './body/fill-side';
export * from './body/match-pose';
export * from './body/pairing';
export type { Party } from './body/party';
export { type Proportion, proportionsOf } from './body/proportions';
export { type ReadyItem, readinessOf, type SeenFigure } from './body/readiness';
export {
  KEPT_KINDS,
  type KeptKind,
  type KeptRegions,
  keepRegions,
  keptRegions,
  REGIONS,
  type Region,
  regionsOf,
} from './body/regions';
export { findTPose, type RestKind, restKind } from './body/rest-kind';
export { applySpace, extent } from './body/space';
export { STAND_IN_HEIGHT, type StandInRest, standIn } from './body/stand-in';
export { carrierOf } from './bodymap/body-root';
export { type MapFault, mapFaults } from './bodymap/faults';
export * from './bodymap/guess';
export { carryJoints, heldJoints } from './bodymap/joint-sets';
export * from './bodymap/json';
export * from './bodymap/slots';
export { type Stance, stanceOf } from './bodymap/stance';
export { canonicalBytes } from './codec/canonical';
export { unpackMotion, unpackRange } from './codec/decode';
export { PACK_DEFAULTS, type PackOptions, packMotion } from './codec/encode';
export { largestError } from './codec/error';
export { animatedSvg } from './cutout/animated-svg';
export { artFromJson, artToJson, type CutoutArtJson } from './cutout/art-json';
export { type AssembleOptions, assemble, cutoutFromSvg } from './cutout/assemble';
export { drawingSet, drawingsOf } from './cutout/drawing-set';
export { DRIVE_DEFAULTS, type Driven, type DriveOptions, driveCutout, type FlatParty } from './cutout/drive';
export { viewsOf } from './cutout/drive-head';
export type { FlatPlant } from './cutout/drive-legs';
export { orderLabel, orderOf } from './cutout/drive-order';
export { type CutoutChange, editCutout } from './cutout/edit';
export {
  copyExposure,
  type Exposure,
  type ExposureKey,
  exposedAt,
  withExposure,
} from './cutout/exposure';
export * from './cutout/figure';
export { keepKeys } from './cutout/keep-keys';
export {
  assertKeys,
  type CutoutKey,
  type CutoutKeys,
  evaluateKeys,
  type KeyTrack,
  keyedAt,
  keysFromJson,
  keysOfMotion,
  type StepKeys,
} from './cutout/keys';
export { type LottieFile, type LottieOptions, toLottie } from './cutout/lottie';
export { isLottie } from './cutout/lottie-layers';
export { type LottieScene, sceneFromLottie } from './cutout/lottie-scene';
export { type JointMarks, MARKED_JOINTS, putTogether } from './cutout/marked-joints';
export {
  type DrawnFigure,
  type MergedDrawing,
  type MergedFigure,
  type MergeReport,
  mergeDrawings,
  mergeWords,
} from './cutout/merge';
export { type PartReading, readPartName } from './cutout/part-names';
export { findPictureParts, type PictureFile } from './cutout/picture-parts';
export { readinessOfCutout } from './cutout/readiness';
export { boxOverTime, renderSvg } from './cutout/render-svg';
export { type DrivenMeasure, measureDriven } from './cutout/report';
export {
  type CutoutScene,
  type CutoutSceneJson,
  figureFromJson,
  figureToJson,
  SCENE_JSON,
  sceneFromJson,
  sceneToJson,
} from './cutout/scene-json';
export { DRIVE_VIEWS, type DriveView } from './cutout/seen';
export { CutoutShow, type ShownDrawing } from './cutout/show';
export { type SwapChoices, type Swapped, type SwapReport, swapCutout } from './cutout/swap';
export type { OffKey, SaidOfKey } from './cutout/swap-places';
export { swapWords } from './cutout/swap-report';
export * from './errors';
export { type FieldFeet, fieldWeights, meanTurn, type PinnedPose, PoseField } from './field/field';
export { type ClayFrame, type ClayView, clayPicture, fromPicture, inPicture } from './film/clay';
export { type Filmed, type FilmFrame, type FilmOptions, filmOf } from './film/film';
export * from './fitting/curves';
export * from './fitting/document';
export * from './fitting/evaluate';
export { type Mend, mendsFor } from './fitting/mend';
export { readAmc } from './formats/amc-read';
export { type Paired, pairSkeletons, skeletonFileFor } from './formats/asf-pair';
export { readAsf } from './formats/asf-read';
export { readBvh } from './formats/bvh-read';
export { writeBvh } from './formats/bvh-write';
export { readC3d } from './formats/c3d';
export { type EngineCondition, engineConditions } from './formats/conditions';
export { type CsvOptions, writeCsv } from './formats/csv-write';
export { type NamedMotion, readGltf, readGltfModel } from './formats/gltf-read';
export { type GlbContent, type SceneContent, writeGlb, writeScene } from './formats/gltf-write';
export {
  type Format,
  type Imported,
  type ImportOptions,
  importFile,
  importSolved,
  MAX_FILE_BYTES,
  sniffFormat,
} from './formats/import';
export {
  looksLikeJointTable,
  looksLikeNumbers,
  readJointTable,
  sampleTable,
  TABLE_HEAD,
  type TableColumns,
  type TableSample,
  writeJointTable,
} from './formats/joint-table';
export {
  applyKeys,
  KEY_CURVES,
  type KeyCurves,
  keyCount,
  type ReducedKeys as Keys,
  reduceKeys,
} from './formats/key-reduce';
export { type MeshFormat, readMeshFile, sniffMesh } from './formats/mesh-read';
export { type MotionJson, motionFromJson, motionToJson } from './formats/motion-json';
export { readTrc, writeTrc } from './formats/trc';
export { type UsdContent, writeUsd } from './formats/usd-write';
export { type VrmMeta, writeVrm, writeVrma } from './formats/vrm-write';
export { checkJoin, type JoinCheck } from './join/check';
export {
  JOIN_DEFAULTS,
  JOIN_KINDS,
  type JoinFact,
  type JoinKind,
  type JoinWish,
  type Laid,
} from './join/laid';
export { type Lane as BaseLane, layLane } from './join/lane';
export * from './join/loop-close';
export * from './join/loop-find';
export { findMatches, type Match, type MatchOptions } from './join/match';
export { type Carry, MEETS, type Meet } from './join/meet';
export * from './join/seam';
export { type CorrectionTrack, correct, HANDLES, type Handle } from './layer/correct';
export * from './layer/offsets';
export { moveAt, turnOffsetAt } from './layer/offsets';
export {
  layOver,
  looksAbsolute,
  OVERLAY_MODES,
  type OverlayMode,
  type OverlayOptions,
  REFERENCES,
  type Reference,
} from './layer/overlay';
export { LiveBuffer, type LivePose } from './live/live-buffer';
export {
  readStageMessage,
  type StageFrame,
  type StageHello,
  type StageMessage,
  type StagePerformer,
} from './live/packets';
export { type TakeAccount, TakeRecorder, takeWords } from './live/take-recorder';
export { type MarkerBody, type MarkerLimb, markerBodyFromJson } from './markers/known-body';
export type { Markers } from './markers/markers';
export { type Solved, type SolveReport, solveMarkers, solveWords } from './markers/solve';
export { solveOnBody, solveTake } from './markers/solve-on-body';
export { angleBetweenQuats as angleBetween } from './math/quat';
export { seeded } from './math/random';
export { expQuat, logQuat } from './math/rotation-vector';
export * from './mirror/mirror';
export { type Bend, bendOf, type Ease, easeAt, type NamedEase, splitEase, stretchAt, valueAt } from './motion/curve';
export * from './motion/local-pose';
export * from './motion/motion';
export { PlaneReader } from './motion/plane-pose';
export { skeletonsOf } from './motion/skeletons';
export * from './motion/timing';
export * from './motion/tracks';
export { turnedOver, turnedRound } from './motion/turned-round';
export * from './play/graph';
export { mixCycles } from './play/mix';
export { Player, type PlayInputs, type Playing } from './play/player';
export { writeScxml } from './play/scxml';
export { type CameraKey, type ReelCamera, type Shot, shotAt } from './reel/camera';
export * from './reel/document';
export * from './reel/evaluate';
export * from './reel/levels';
export { type MetAt, meetAt } from './reel/meet-at';
export * from './reel/passes';
export { placeStretch } from './reel/place';
export { AXES, type Axis, type PoseKeys, type PoseWish, poseKeys } from './reel/pose-keys';
export { type CrossingReport, measureCrossings } from './retarget/crossing';
export {
  HAND_MODES,
  type HandGoal,
  type HandMode,
  handGoalsFor,
  type ImportanceKey,
  importanceAt,
} from './retarget/hand-goals';
export type { LeaveOut } from './retarget/leave';
export { defaultLimits, keepLimits, type Limit, type Limits, measureLimits } from './retarget/limits';
export { type LookGoal, lookAt } from './retarget/look';
export { planRetarget, type RetargetPlan as Plan } from './retarget/plan';
export { type Proof, type ProofStep, proofOn } from './retarget/proof';
export { type Lane, measure, type Report } from './retarget/report';
export { scoreReport } from './retarget/report-score';
export { skinStretch } from './retarget/report-skin';
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
export type { Trouble, TroubleFact, TroubleKind } from './retarget/trouble';
export { compareRigs, type RigDifferences } from './rig/compare-rigs';
export * from './rig/figure';
export { anySkeletonFromJson, asSkeleton, endOf, type Facing, facingOf, flatSkeleton } from './rig/flat';
export { poseFigure } from './rig/pose-figure';
export * from './rig/rig';
export * from './rig/rig-json';
export { type SkinEdges, sampleEdges } from './rig/skin-edges';
export * from './rig/thickness';
export {
  type BodyFrame,
  type BodyTurn,
  intoBody,
  outOfBody,
  QUARTERS,
  type Quarter,
  surfacesInBody,
  turnedBy,
} from './rigging/body-frame';
export { type LoosePart, looseParts, type Tie } from './rigging/loose-parts';
export { MARK_SLOTS, type MarkSlot, type Marks, marksFromJson, mirroredSlot } from './rigging/marks';
export {
  type MarkedMesh,
  type MarkSource,
  markMesh,
  type RiggedMesh,
  type RiggingOptions,
  rigMesh,
  stoodUpright,
} from './rigging/rig-mesh';
export { RIGGED_JOINTS } from './rigging/skeleton';
export * from './tune/clean';
export { travelJoint } from './tune/common';
export { energy } from './tune/energy';
export { place, setOnFloor } from './tune/place';
export { stanceWidth, strideLength } from './tune/stance';
export * from './tune/travel';
export { armsApart, lean } from './tune/trunk-and-arms';
export * from './tune/tune';
