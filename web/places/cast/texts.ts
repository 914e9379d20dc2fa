import { many } from '../../naming/counts';

/** What people read in places/cast, by the file that shows it. */

export const aboutTab = {
  kind: 'Kind',
  drawings: 'Drawings',
  drawn: 'Drawn',
  mesh: 'Mesh',
  restPose: 'Rest pose',
  units: 'Units',
  axes: 'Axes',
  upFacing: (upAxis: string | number, facing: string | number, certainty: string | number): string =>
    `${upAxis} up, facing ${facing}, ${certainty}`,
  height: 'Height',
  joints: 'Joints',
  note: 'Note',
  changedTheNoteOf: (name: string | number): string => `Changed the note of ${name}`,
  whatWorksAndWhat: 'What works and what does not',
  doesNotWork: 'does not work',
  partlyWorks: 'partly works',
  works: 'works',
  armsHanging: 'arms hanging',
  anotherPose: 'another pose',
  facingLeft: 'facing left',
  facingRight: 'facing right',
  vertices: (vertexCount: string | number): string => `${vertexCount} vertices`,
  noneShownAsBones: 'none; shown as bones',
  aCopyOfChanging: (name: string | number): string => `A copy of ${name}; changing it leaves the original alone.`,
};

export const addDrawingsDialog = {
  added: (fresh: number): string => `Added ${many(fresh, 'drawing')}`,
  addedTo: (fresh: number, name: string | number): string => `Added ${many(fresh, 'drawing')} to ${name}`,
  nothingWasNew: 'Nothing was new',
  addDrawingsTo: (name: string | number): string => `Add drawings to ${name}`,
  fromAnotherCutOut:
    'From another cut-out in the cast, or from a set kept in the library, part by part. No label of this figure changes, so nothing made with it does.',
  thereIsNoOther: 'There is no other cut-out in the cast. Take in the file with the drawings first.',
  whereTheDrawingsCome: 'Where the drawings come from',
  chooseAFigureOr: 'choose a figure or a set of drawings',
  drawings: (name: string | number): string => `${name} (drawings)`,
  noPartOfThe: 'No part of the two figures is the same: there is nothing to add.',
  nothingNewToAdd: 'Nothing new to add',
  add: (fresh: number): string => `Add ${many(fresh, 'drawing')}`,
  isThereAlready: (label: string | number): string => `${label} is there already`,
  asIt: (label: string | number, label2: string | number): string => `${label} as ${label2}`,
  partOfThatFigure: (unpaired: number): string =>
    `${many(unpaired, 'part')} of that figure ${unpaired === 1 ? 'has' : 'have'} no partner here.`,
};

export const bareMeshPage = {
  dropOneGlbGltf: 'Drop one GLB, glTF, OBJ or STL file.',
  body: 'Body',
  aSkeletonForA: 'A skeleton for a bare mesh',
  meshFile: 'Mesh file',
  dropABodyWithout:
    'Drop a body without a skeleton: GLB, glTF, OBJ or STL, standing with arms and legs apart. Ten marks are suggested by its shape; you drag those that lie wrong, and look at it moving before you keep it.',
  reading: 'Reading …',
  chooseAFileOr: 'Choose a file, or drop it here',
  doesItMoveWell: 'Does it move well?',
  marks: 'Marks',
  close: 'Close',
  nothingIsOpenYet: 'Nothing is open yet.',
  nameInTheCast: 'Name in the cast',
  bringingItIn: 'Bringing it in …',
  acceptIntoTheCast: 'Accept into the cast',
  backToTheMarks: 'Back to the marks',
  turnAbout: 'Facing the wrong way? Turn it',
  mirrorLeftAndRight: 'Mirror left and right',
  leftAndRightMove: 'Left and right move together',
  fingers: 'Fingers',
  fingersWhereShown: 'Fingers where the hands show them',
  fingersMade: (left: number, right: number): string =>
    left + right === 0
      ? 'The hands show no fingers: each moves as one piece. Fingers that share one surface cannot be told apart.'
      : left === right
        ? `${many(left, 'finger')} on each hand, the thumb included.`
        : `${many(left, 'finger')} on the left hand and ${many(right, 'finger')} on the right, thumbs included.`,
  undo: 'Undo',
  redo: 'Redo',
  theShapeDoesNot: 'The shape does not show every joint. Drag the red marks to where they belong.',
  makingJointsAndSkin: 'Making joints and skin …',
  makeTheSkeleton: 'Make the skeleton',
  theBodyMovingFrom: (view: string | number): string => `The body moving, from the ${view}`,
  stop: 'Stop',
  play: 'Play',
  momentOfTheProof: 'Moment of the proof',
  jointsAndSkinWithAt: (count: string | number, ms: string | number): string =>
    `${count} joints and skin with at most four influences, made in ${ms} s. Watch shoulders, hips and knees: where skin tears or follows the wrong bone, go back and move the mark.`,
  trianglesDragAMarkIn: (triangles: string | number): string =>
    `${triangles} triangles. Drag a mark in either view, or move it with the arrow keys.`,
};

export const looseParts = {
  looseParts: 'Loose parts',
  tied: (count: number): string => `${count} tied`,
  tieWhatIsStiff:
    'They follow what they lie on. Tie a hat, a tool or a buckle to a joint, and it moves stiffly with it.',
  followsWhatItLiesOn: 'what it lies on',
  part: (number: number): string => `part ${number}`,
  triangles: (count: number): string => many(count, 'triangle'),
  whatMoves: (part: string): string => `What moves ${part}`,
};

export const bodyTab = {
  proportions: 'Proportions',
  bodyMap: 'Body map',
  openItInFitting: 'open it in Fitting',
  faceShapes: 'Face shapes',
  thisMeshHasNone: 'This mesh has none.',
  comparedWithAnAverageBody: (heightM: string | number): string =>
    `Compared with an average body of the same height, ${heightM} m. The middle line is the average.`,
  sureGuessedMissingEmpty: (
    sure: string | number,
    guessed: string | number,
    missing: string | number,
    empty: string | number,
  ): string => `${sure} sure, ${guessed} guessed, ${missing} missing, ${empty} empty on purpose · `,
  regions: (value: string | number): string => `Regions: ${value}`,
  cm2: (value: string | number): string => `${value} cm`,
};

export const castCard = {
  onHand: 'on hand',
};

export const castPlace = {
  movedToTheBin: (name: string | number): string => `Moved ${name} to the bin`,
  restored: (name: string | number): string => `Restored ${name}`,
  theCastCouldNot: 'The cast could not be opened',
  noCastMembersIn: 'No cast members in the bin',
  backToTheCast: 'Back to the cast',
  theCastIsEmpty: 'The cast is empty',
  bringACharacterIn: 'Bring a character in',
  addAStandIn: 'Add a stand-in',
  giveABareMesh: 'Give a bare mesh a skeleton',
  aGlbOrGltf:
    'A GLB or glTF file with a skin becomes a cast member that motion is shown on and fitted to. Until you have one, a stand-in with average proportions will do.',
  castMembers: 'Cast members',
  castInTheBin: 'Cast in the bin',
  cast: 'Cast',
  bin: 'Bin',
  theCastMemberIn: 'The cast member in this link no longer exists',
  orIsInThe: ', or is in the bin',
};

export const castStage = {
  atRest: (name: string | number): string => `${name} at rest`,
};

export const cutoutStage = {
  drawnFromItsParts: (name: string | number): string => `${name}, drawn from its parts`,
  pins: 'Pins',
  pivotOf: (name: string | number): string => `Pivot of ${name}`,
  pullApart: 'pull apart',
  marks: 'Marked joints',
  markOf: (slot: string): string => `Mark of the ${slot}`,
};

export const drawingsTab = {
  addDrawingsFromAnother: 'Add drawings from another figure',
  everyPartOfThis:
    'Every part of this figure has one drawing. Put several into one layer, all but one hidden, and they can be chosen from.',
  anItemOfThe: 'An item of the library, for other figures to take over',
  keepAsDrawings: 'Keep as drawings',
  part: 'part',
  aNumberSaysNothing: 'A number says nothing: name the drawing in the file',
  hasNoDrawing: (name: string | number, label: string | number): string => `${name} has no drawing "${label}"`,
  none: 'none',
};

export const exportCharacterDialog = {
  isSaved: (file: string): string => `${file} is saved`,
  exportIt: (name: string | number): string => `Export ${name}`,
  oneGlbFileWhich: 'One GLB file, which can include the motions made for this character.',
  thisCharacterHasNo: 'This character has no mesh: the file will contain only joints.',
  withTheMesh: 'With the mesh',
  asVrmTheFigure: 'As VRM: the figure alone, its humanoid bones named',
  motionInIt: 'Motion in it',
  ofIt: (count: string | number, count2: string | number): string => `: ${count} of ${count2}`,
  none: 'none',
  all: 'all',
  everythingMadeForIt: 'Everything made for it is on an older skeleton: fit it again first.',
  nothingHasBeenMade: 'Nothing has been made for it yet: the file will contain only the figure.',
  leaveOutKeysWithin: 'Leave out keys within 1 mm',
  curvesBetweenTheKeys: 'Curves between the keys',
  writing: 'Writing …',
  saveTheFile: 'Save the file',
  forGameEngines: 'For game engines',
  meetsWhatGameEngines: 'Meets what game engines usually ask',
  gameEnginesMayObject: (count: string | number, count2: string | number): string =>
    `Game engines may object: ${count} of ${count2}`,
  less: 'less',
  allOfIt: 'all of it',
  met: 'met',
  notMet: 'not met',
  wereMadeForItThe: (found: string | number, items: string | number): string =>
    `${found} were made for it; the first ${items} by name can be included.`,
};

export const jointSets = {
  jointSets: 'Joint sets',
  giveJointsThatYou: 'Give joints that you often select together a name.',
  deleteTheSet: (name: string | number): string => `Delete the set ${name}`,
  deletedTheSet: (name: string | number): string => `Deleted the set ${name}`,
  takeTheJointsOf: 'Take the joints of an item',
  itemToTakeThe: 'Item to take the joints from',
  noItemWithThat: 'No item with that name.',
  thisCharacterHasEvery: (ofs: string | number): string => `This character has every joint that ${ofs} moves.`,
  missingHereButMoved: (ofs: string | number, names: string | number): string =>
    `Missing here, but moved in ${ofs}: ${names}`,
  jointsOfTheNew: 'Joints of the new set',
  nameOfTheNew: 'Name of the new set',
  keep: 'Keep',
  madeTheSet: (called: string | number): string => `Made the set ${called}`,
};

export const limitsTab = {
  changedTheLimitOf: (slotLabel: string | number): string => `Changed the limit of the ${slotLabel}`,
  itHasItsOwn: 'It has its own limits.',
  standardLimitsChangeOne: 'Standard limits; change one to give this character its own.',
  inDegreesHowFar: 'In degrees: how far a part may swing, and the range in which a hinge bends. The stage shows them.',
  part: 'part',
  swing: 'swing',
  bendsFrom: 'bends from',
  to: 'to',
  swingOf: (slotLabel: string | number): string => `Swing of ${slotLabel}`,
  bendsFrom2: (slotLabel: string | number): string => `${slotLabel} bends from`,
  bendsTo: (slotLabel: string | number): string => `${slotLabel} bends to`,
  resetToTheStandard: (slotLabel: string | number): string => `Reset ${slotLabel} to the standard limit`,
  wentBackToThe: 'Went back to the standard limits',
  resetAllToThe: 'Reset all to the standard limits',
};

export const madeTab = {
  fittedAgain: (name: string | number): string => `Fitted ${name} again`,
  fittedAgain2: (parts: number): string => `Fitted ${many(parts, 'item')} again`,
  fittingAgainInOne: (parts: number): string =>
    `Fitting ${many(parts, 'item')} again in one job; each becomes a new version of its item`,
  report: 'Report',
  looking: 'Looking …',
  noFittingsForIt: 'No fittings for it yet.',
  fitAMotion: 'Fit a motion',
  starting: 'Starting …',
  fitAllOfThem: 'Fit all of them again',
  outOfDate: 'out of date',
  from: 'from',
  fitAgain: 'fit again',
  everythingMadeFor: (name: string | number): string => `Everything made for ${name}`,
  ofAreOutOf: (stale: number, data: string | number): string =>
    `${stale} of ${data} ${stale === 1 ? 'is' : 'are'} out of date: the source, map or character has changed. They stay as they are until you fit them again.`,
};

export const markView = {
  turnAQuarter: (view: string): string => `Give the body a quarter turn, as seen from the ${view}`,
  theMeshFromThe: (view: string | number): string => `The mesh from the ${view}`,
  marksFromThe: (view: string | number): string => `Marks from the ${view}`,
  fromThe: (markWord: string | number, view: string | number): string => `${markWord}, from the ${view}`,
};

export const memberPage = {
  readiness: 'Readiness',
  parts: 'Parts',
  drawings: 'Drawings',
  body: 'Body',
  restPose: 'Rest pose',
  sides: 'Sides',
  limits: 'Limits',
  made: 'Made',
  copied: (name: string | number): string => `Copied ${name}`,
  isAFullCopy: (name: string | number, name2: string | number): string =>
    `${name} is a full copy of ${name2}; changing it leaves the original alone`,
  chosenCastMember: 'Chosen cast member',
  turnedForMatching: (posing: string | number): string => `Turned ${posing} for matching`,
  whatTheStageShows: 'What the stage shows',
  keyJ: 'Key J',
  meshAndJoints: 'mesh and joints',
  keyX: 'Key X',
  axes: 'axes',
  keyN: 'Key N',
  names: 'names',
  keyTMovesEach: 'Key T: moves each part in turn, so that you can check the body map',
  tryTheJoints: 'try the joints',
  widthOfThePanel: 'Width of the panel',
  name: 'Name',
  renamedTo: (name: string | number, name2: string | number): string => `Renamed ${name} to ${name2}`,
  aboutThisCastMember: 'About this cast member',
  showEveryMotionOn: 'Show every motion on this character',
  isOnHand: 'Is on hand',
  putOnHand: 'Put on hand',
  saveAsAFile: 'Save as a file, with or without motion',
  exportIt: 'Export',
  aFullCopyThat: 'A full copy that is safe to experiment with',
  copy: 'Copy',
  useAnotherFileAnd: 'Use another file and keep the map and history',
  replace: 'Replace',
  restoreFromTheBin: 'Restore from the bin',
  moveToTheBin: 'Move to the bin',
  restore: 'Restore',
  inSpace: 'in space',
  movedThePivotOf: (joint: string | number): string => `Moved the pivot of ${joint}`,
};

export const partsTab = {
  movedForwards: (part: string): string => `Moved ${part} forwards`,
  movedBackwards: (part: string): string => `Moved ${part} backwards`,
  fromTheFront: 'from the front',
  facingRight: 'facing right',
  facingLeft: 'facing left',
  drawn: 'drawn',
  howTheFigureIs: 'How the figure is drawn',
  setTheFigureTo: (label: string | number): string => `Set the figure to be drawn ${label}`,
  partsTheForemostFirst: 'Parts, the foremost first',
  on: (joint: string | number): string => `on ${joint}`,
  guessed: ', guessed',
  drawFurtherForward: (name: string | number): string => `Draw ${name} further forward`,
  drawFurtherBack: (name: string | number): string => `Draw ${name} further back`,
  swingsAfter: 'swings after',
  changedHowMuchSwings: (joint: string | number): string => `Changed how much ${joint} swings`,
  drawings: (drawings: string | number): string => ` · ${drawings} drawings`,
  markTheJoints: 'Mark the joints …',
  whenPartsWereTaken: 'If parts were misread, show where the figure bends',
};

export const markTab = {
  markTheJoints: 'Mark the joints',
  dragEachMark:
    'Drag each mark to where the figure bends. Switch off what it does not have: an arm drawn in one piece needs a shoulder and a wrist, but no elbow.',
  drawingsStay: 'The drawings stay as they are. Whatever lies along a line becomes that part of the body.',
  putItTogether: 'Put it together',
  leaveIt: 'Leave it as it was',
  markedTheJointsOf: (name: string): string => `Marked the joints of ${name}`,
  isPutTogether: (name: string, found: number): string => `${name} is put together by ${found} marks`,
};

export const proofWords = {
  skippedNoJointFor: (text: string | number, missing: string | number): string =>
    `${text}: skipped, no joint for ${missing}`,
};

export const replaceDialog = {
  replacedSFileWith: (name: string | number, name2: string | number): string => `Replaced ${name}’s file with ${name2}`,
  hasANewFile: (name: string | number): string => `${name} has a new file; map, pose, limits, pairs and sets were kept`,
  jointsAdded: 'Joints added',
  jointsRemoved: 'Joints removed',
  newParent: 'New parent',
  fromTo: (joint: string | number, from: string | number, to: string | number): string =>
    `${joint} from ${from} to ${to}`,
  moved: 'Moved',
  turned: 'Turned',
  replaceTheFileOf: (name: string | number): string => `Replace the file of ${name}`,
  theBodyMapPose:
    'The body map, pose, limits, pairs, joint sets, notes and history are kept wherever the joints still exist.',
  newFile: 'New file',
  chooseAnother: (name: string | number): string => `${name}; choose another`,
  chooseAGlbGltf: 'Choose a GLB, glTF or BVH file, or drop it here',
  reading: 'Reading …',
  theSkeletonIsIdentical: 'The skeleton is identical.',
  jointSetsThatLose: (setsCut: string | number): string => ` Joint sets that lose joints: ${setsCut}.`,
  verticesBefore: (after: string | number, before: string | number): string => `${after} vertices, ${before} before.`,
  theFileHasNo: 'The file has no mesh: the character will be shown as bones.',
  nothingInTheLibrary: 'Nothing in the library was made for this character.',
  madeForItSo: (itemsMadeFor: number, fittings: number): string =>
    `Made for it so far: ${many(itemsMadeFor, 'item')}, of which ${many(fittings, 'fitting')} can be made again.`,
  replace: 'Replace',
  andMore: (join: string | number, count: string | number): string => `${join} and ${count} more`,
  byCm: (joint: string | number, value: string | number): string => `${joint} by ${value} cm`,
  by: (joint: string | number, degrees: string | number): string => `${joint} by ${degrees}°`,
  keepsSlotOfThe: (slotsKept: number): string => `Keeps ${many(slotsKept, 'slot')} of the body map`,
  loseTheirJoint: (slotsLost: string | number): string => `; ${slotsLost} lose their joint: `,
};

export const restTab = {
  straightened: (label: string | number): string => `Straightened ${label}`,
  andHaveNoJoint: (name: string | number, name2: string | number): string =>
    `${name} and ${name2} have no joint names in common, so nothing could be copied.`,
  haveNoMatchBy: (length: number): string =>
    `${many(length, 'joint')} have no match by name and keep their rest rotation`,
  copiedThePoseOf: (name: string | number): string => `Copied the pose of ${name}`,
  enterAFrameFrom: (frameCount: string | number): string => `Enter a frame from 1 to ${frameCount}.`,
  frameOf: (f: string | number, name: string | number): string => `frame ${f} of ${name}`,
  tookFrameOfAs: (f: string | number, name: string | number): string => `Took frame ${f} of ${name} as pose`,
  byTheArms: 'By the arms:',
  takenFromTheFirst: ', taken from the first frame of its file',
  aMatchingPoseIs: (how: string | number): string => `A matching pose is set: ${how}. The bind pose is unchanged.`,
  limbsAreMatchedFrom:
    'Limbs are matched from the rest pose. If arms come out wrong, pose the character here; the bind pose is not changed.',
  showTheStandardPose: 'Show the standard pose over it, arms level',
  straightenALimb: 'Straighten a limb',
  turnAJointBy: 'Turn a joint by hand, in the stage',
  jointToTurn: 'Joint to turn',
  none: 'none',
  copyThePoseOf: 'Copy the pose of a similar rig',
  whosePose: 'Whose pose',
  whose: 'whose?',
  copy: 'Copy',
  takeItFromA: 'Take it from a frame',
  whichMotion: 'Which motion',
  noMotionWithThat: 'No motion with that name is on this skeleton.',
  frameToTake: 'Frame to take',
  take: 'Take',
  wentBackToThe: 'Went back to the bind pose',
  backToTheBind: 'Back to the bind pose',
  bothArmsHangBeside: 'both arms hang beside the body',
  theLeftArm: 'the left arm',
  theRightArm: 'the right arm',
  theLeftLeg: 'the left leg',
  theRightLeg: 'the right leg',
  allFour: 'all four',
  frameOf3: (name: string | number): string => `frame of ${name}`,
};

export const sidesTab = {
  joint: 'joint',
  leftAndRight: 'Left and right',
  removeThePairOf: (value: string | number): string => `Remove the pair of ${value}`,
  removedThePairOf: (value: string | number): string => `Removed the pair of ${value}`,
  fewer: 'fewer',
  all: (length: number): string => `all ${many(length, 'pair')}`,
  leftJoint: 'Left joint',
  rightJoint: 'Right joint',
  pairedWith: (left: string | number, right: string | number): string => `Paired ${left} with ${right}`,
  pair: 'Pair',
  setByHand: 'set by hand',
  byTheMap: 'by the map',
  byName: 'by name',
  byPlace: 'by place',
  withoutAPartner: (map: string | number): string => `without a partner: ${map}`,
};

export const spaceRow = {
  sizeAsImported: 'size as imported',
  n100Larger: '100 × larger',
  n10Larger: '10 × larger',
  n10Smaller: '10 × smaller',
  n100Smaller: '100 × smaller',
  inchesReadAsCm: 'inches read as cm',
  feetReadAsM: 'feet read as m',
  directionAsImported: 'direction as imported',
  turnLeft: 'turn left',
  turnRight: 'turn right',
  turnAround: 'turn around',
  tipForwards: 'tip forwards',
  tipBackwards: 'tip backwards',
  correctedTheSizeOr: (name: string | number): string => `Corrected the size or direction of ${name}`,
  importedWrongly: 'Imported wrongly?',
  size: 'Size',
  direction: 'Direction',
  turning: 'Turning …',
  correctIt: 'Correct it',
};

export const standInDialog = {
  standIn: 'Stand-in',
  added: (name: string | number): string => `Added ${name}`,
  addAStandIn: 'Add a stand-in',
  aBodyWithAverage: 'A body with average proportions, fingers and toes, to preview motion on and fit motion to.',
  name: 'Name',
  armsAtRest: 'Arms at rest',
  heightInMetres: 'Height in metres',
  adding: 'Adding …',
  addToTheCast: 'Add to the cast',
  fromToM: (low: string | number, high: string | number): string => `From ${low} to ${high} m.`,
};

export const useKeepDrawings = {
  keptInTheLibrary: (name: string | number): string => `Kept ${name} in the library`,
  show: 'Show',
};
