import { many } from '../naming/counts';

/** What people read in parts, by the file that shows it. */

export const curve = {
  atFrame: (pointLabel: string | number, frame: string | number): string => `${pointLabel} at frame ${frame}`,
};

export const exportDialog = {
  keysLeftOut: 'keys left out within 1 mm',
  keysLeftOutCurved: 'keys left out within 1 mm, curves between them',
  isSaved: (file: string): string => `${file} is saved`,
  glbJointsMotionMesh: 'GLB: joints, motion, mesh',
  usdJointsMotionMesh: 'USD: joints, motion, mesh, as text',
  vrmAnimationMotionFor: 'VRM animation: motion for humanoids',
  bvhJointsAndMotion: 'BVH: joints and motion',
  csvPositionsAndRotations: 'CSV: positions and rotations, one row per frame',
  jsonCharacterAndMotion: 'JSON: character and motion as plain data',
  lottieDrawingsAndMotion: 'Lottie: drawings and motion for players',
  svgADrawingThat: 'SVG: a drawing that plays by itself',
  pngOneTransparentPicture: 'PNG: one transparent picture per frame, in a ZIP',
  spritesAllFramesOn: 'Sprites: all frames on one PNG, with a JSON',
  framesASecond: (nice: string | number): string => `${nice} frames a second`,
  rememberedFor: (name: string | number): string => `Remembered for ${name}`,
  exportIt: (name: string | number): string => `Export ${name}`,
  fittedTo: (name: string | number): string => `fitted to ${name}`,
  destination: 'Destination',
  noneChosen: 'none chosen',
  rememberTheseSettings: 'Remember these settings',
  rememberIt: 'Remember it',
  setAsRememberedFor: (name: string | number): string => `Set as remembered for ${name}: `,
  differsFromWhatIs: (name: string | number): string => `Differs from what is remembered for ${name}: `,
  format: 'Format',
  framesASecond2: 'Frames a second',
  keepEachOnesRate: 'keep each one’s rate',
  enterANumberAbove: 'Enter a number above 0, at most 1000.',
  includeTheCharactersMesh: 'Include the character’s mesh',
  leaveOutKeysWithin: 'Leave out keys within 1 mm',
  curvesBetweenTheKeys: 'Curves between the keys',
  inTheLibrarysFolders: 'In the library’s folders',
  fitOntoFirst: (name: string | number): string => `Fit onto ${name} first`,
  anArchiveHoldsAt: 'An archive holds at most 500 items: the first 500 are exported.',
  setAsYouHad: 'Set as you had it last time.',
  reset: 'Reset',
  writing: 'Writing …',
  saveAsZip: (min: string | number): string => `Save ${min} as ZIP`,
  saveAs: (toUpperCase: string | number): string => `Save as ${toUpperCase}`,
  withTheMesh: 'with the mesh',
  withoutAMesh: 'without a mesh',
  aKeyOnEvery: 'a key on every frame',
  originalFrameRate: 'original frame rate',
};

export const findMotion = {
  motion: 'Motion',
  chooseAMotion: 'Choose a motion',
  motions: 'Motions',
  findByNameTag: 'Find by name, tag or what it shows',
  noMotionFound: 'No motion found.',
  moreTypeToNarrowThe: (more: string | number): string => `${more} more: type to narrow the list`,
};

export const fitManyDialog = {
  forOneAlone: (name = 'this one'): string => `For ${name} alone`,
  fitOne: (name = 'an item'): string => `Fit ${name}`,
  fitMany: (items: number): string => `Fit ${many(items, 'item')}`,
  sameAsAll: 'same as all',
  sameAsAll2: (label: string | number): string => `${label}: same as all`,
  deckWalk: 'Deck walk',
  winch: 'Winch',
  report: 'Report',
  fitAWholeFolder: 'Fit a whole folder',
  allOfThemRun: 'All of them run as one job, which continues after you close this page; the report stays.',
  everythingIn: 'Everything in',
  andBelow: 'and below,',
  items: 'items.',
  everythingInAndBelow: (get: string | number, below: number): string =>
    `Everything in ${get} and below (${many(below, 'item')})`,
  onto: 'Onto',
  settings: 'Settings',
  settingsFor: 'Settings for',
  forAll: 'For all',
  whereAPairHas: 'Where a pair has its own settings in Fitting, use those',
  namesItemCharacterAnd: 'Names ({item}, {character} and {n} are filled in)',
  intoTheFolder: 'Into the folder',
  besideEachSource: 'beside each source',
  packsAndLinksBetween: 'Packs and links between variants are rebuilt among the copies.',
  starting: 'Starting …',
  chooseACharacter: 'Choose a character',
  fitOnto: (names: string | number): string => `Fit onto ${names}`,
  plantsHeldTravelScaled: 'plants held, travel scaled by leg length, no tuning',
  started: (parts: number): string => `${many(parts, 'fitting')} started`,
  andMoreWithThe: (items: string | number): string => `and ${items} more, with the common settings`,
  forExample: (sample: string | number): string => `for example: ${sample}`,
};

export const fitSettingsFields = {
  holdPlantedSolesIn: 'Hold planted soles in place',
  keepLimbsOutOf: 'Keep limbs out of one another',
  keepArmsAndHead: 'Keep arms and head within joint limits',
  keepBothHandsThe: 'Keep both hands the same distance apart',
};

export const hipsSlider = {
  hipsLower: 'Hips lower',
};

export const itemPicker = {
  findAnItemBy: 'Find an item by its name',
  andMore: (found: string | number): string => `and ${found} more`,
};

export const missingLabels = {
  copyTheRest: 'Copy the rest',
  leaveIt: 'Leave it',
  hasNoDrawingWhere: (to: string | number, labels: string, missing: number): string =>
    `${to} has no drawing ${labels}. Where ${missing === 1 ? 'it' : 'they'} would show, the drawing before stays.`,
};

export const heads = {
  standsAt: (name: string, frame: number): string => `${name} is at frame ${frame}`,
};

export const othersHere = {
  have: 'have',
  has: 'has',
  thisOpenAsWell: 'this open as well',
};

export const savingState = {
  giveItUp: 'Give it up',
  notSaved: 'not saved',
};

export const tuningSliders = {
  energy: 'Energy',
  armsApart: 'Arms apart',
  stanceWidth: 'Stance width',
  stride: 'Stride',
  lean: 'Lean',
  speed: 'Speed',
};

export const encode = {
  thisBrowserCannotWrite: 'This browser cannot write video. Choose GIF or PNG instead.',
  theVideoCouldNot: 'The video could not be written.',
  aPictureCouldNot: 'A picture could not be written.',
  thePicturesAreToo: 'The pictures are too many for one archive. Choose a smaller picture or fewer a second.',
};
