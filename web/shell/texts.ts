/** What people read in shell, by the file that shows it. */

export const accountMenu = {
  withBinThemeAnd: (initials: string | number, name: string | number): string =>
    `${initials}: ${name}, with bin, theme and keys`,
  bin: 'Bin',
  activity: 'Activity',
  peopleTagsFields: 'People, tags, fields',
  forPrograms: 'For programs',
  velvetDark: 'Velvet (dark)',
  daylightLight: 'Daylight (light)',
  firstSteps: 'First steps',
  keys: 'Keys',
  changePassword: 'Change password …',
  signOut: 'Sign out',
};

export const conflictDialog = {
  somebodyElseChangedThis: 'Somebody else changed this in the meantime',
  yourChangeHasNot: 'Your change has not been saved yet.',
  what: 'What',
  theirsNowSaved: 'Theirs, now saved',
  yours: 'Yours',
  keepTheirs: 'Keep theirs',
  saveMine: 'Save mine',
};

export const helpSheet = {
  everywhere: 'Everywhere',
  libraryCastFittingReels: 'Library, Cast, Fitting, Reels, Intake',
  onAStage: 'On a stage',
  library: 'Library',
  esc: 'Esc',
  del: 'Del',
  cast: 'Cast',
  fitting: 'Fitting',
  reels: 'Reels',
  keys: 'Keys',
  findOrDoAnything: 'find or do anything',
  undoTheLastChange: 'undo the last change',
  redoIt: 'redo it',
  thisSheet: 'this sheet',
  playOrPause: 'play or pause',
  oneFrameBackOr: 'one frame back or forward',
  loopOrPlayOnce: 'loop, or play once',
  turnTheView: 'turn the view',
  zoomInOrOut: 'zoom in or out',
  rightDrag: 'right drag',
  panTheView: 'pan the view',
  clearTheSelectionThen: 'clear the selection, then the search',
  selectEverythingFound: 'select everything found',
  playEverythingListed: 'play everything listed',
  compareTheSelectedItems: 'compare the selected items',
  addToOrRemove: 'add to or remove from favourites',
  versionsAndHistory: 'versions and history',
  fitTheItemTo: 'fit the item to the performer',
  keepTheItemIn: 'keep the item in the tray',
  changeTheItemInto: 'change the item into a new one',
  findMotionsThatMove: 'find motions that move like it',
  findMotionsThatPass: 'find motions that pass through this pose',
  moveToTheBin: 'move to the bin',
  anotherCastMember: 'another cast member',
  putOnHand: 'put on hand',
  axesOfTheJoints: 'axes of the joints',
  namesOfTheJoints: 'names of the joints',
  keepTheResultAs: 'keep the result as a new item',
  exportTheResult: 'export the result',
  theResultBeforeThe: 'the result before the last step',
  sideBySideOr: 'side by side or overlaid',
  troublePlantsGoalsBy: 'trouble, plants, goals, by hand, curves',
  moveOrTurnWhat: 'move or turn what is held',
  libraryWhatIsChosen: 'library, what is chosen, by hand',
  cutWhatIsChosen: 'cut what is chosen in two at the playhead',
  copyWhatIsChosen: 'copy what is chosen behind it',
  removeWhatIsChosen: 'remove what is chosen',
  theWholeReelIn: 'the whole reel in view',
  aRangeBeginsOr: 'a range begins or ends at the playhead',
  bakeIntoAnItem: 'bake into an item',
};

export const jobsChip = {
  ofIt: (done: string | number, all: string | number): string => `${done} of ${all}`,
};

export const opening = {
  readAStrip: 'Read a strip',
  everyMotionIsA:
    'Every motion is a row of silhouettes over time. The bars underneath show when the left foot (green) and the right foot (orange) are planted. Point at a strip, and it plays on the stage.',
  putItOnSomebody: 'Put it on somebody else',
  thisIsFittingThe:
    'This is Fitting: the motion on the left, Big Tove on the right. She is shorter and broader, so stride, feet and arms are worked out again for her body.',
  seeWhatIsWrong: 'See what is wrong, and mend it',
  eachLaneMeasuresOne:
    'Each lane measures one fault over time; click it to go there. “mend” tries what may help and says what it would achieve. Try one, take it, and keep the result as a new item.',
  skip: 'Skip',
  putOneOnBig: 'Put one on Big Tove',
  done: 'Done',
  next: 'Next',
  firstStepsOf: (step: string | number, STEPS: string | number): string => `First steps, ${step} of ${STEPS}`,
};

export const palette = {
  findOrDoAnything: 'Find or do anything',
  nameOfAnItem: 'Name of an item, a cast member, a place, an action …',
  nothingFound: 'Nothing found.',
  goTo: 'Go to',
  library: 'Library',
  cast: 'Cast',
  fitting: 'Fitting',
  reels: 'Reels',
  intake: 'Intake',
  activity: 'Activity',
  people: 'People',
  bin: 'Bin',
  putOnHand: 'Put on hand',
  items: 'Items',
};

export const passwordDialog = {
  yourPasswordIsChanged:
    'Your password is changed. You are signed out everywhere else, and your keys for programs have ended.',
  changeYourPassword: 'Change your password',
  signsYouOutEverywhere: 'Signs you out everywhere else and ends your keys for programs.',
  oldPassword: 'Old password',
  newPasswordAtLeast: 'New password, at least 10 characters',
  newPasswordAgain: 'New password again',
  changeIt: 'Change it',
  theTwoNewPasswords: 'The two new passwords differ.',
};

export const shell = {
  velvet: 'Velvet',
  reel: 'Reel',
  places: 'Places',
  alt: (i: string | number): string => `Alt ${i}`,
  connectionLostReconnecting: 'connection lost; reconnecting …',
  findOrDoAnything: 'Find or do anything',
  ctrlK: 'Ctrl K',
  library: 'Library',
  cast: 'Cast',
  fitting: 'Fitting',
  reels: 'Reels',
  intake: 'Intake',
};

export const tray = {
  onHand: 'On hand',
  thePerformerEveryMotion: 'The performer: every motion is shown on this character. Click to choose another.',
  noOneYet: 'No one yet',
  performer: 'performer',
  theCastIsEmpty: 'The cast is empty. Drop a character at Intake.',
  removeFromTheTray: (name: string | number): string => `Remove ${name} from the tray`,
  undo: (label: string | number): string => `Undo: ${label}`,
  nothingToUndo: 'Nothing to undo',
  undo2: 'Undo',
  redo: (label: string | number): string => `Redo: ${label}`,
  nothingToRedo: 'Nothing to redo',
  redo2: 'Redo',
};

export const useUndoLast = {
  undone: 'Undone',
  thatCouldNotBe: 'That could not be undone',
  redone: 'Redone',
  thatCouldNotBeRedone: 'That could not be redone',
};
