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
};

export const jobsChip = {
  ofIt: 'of',
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
  crateLiftAndCarry: 'Crate lift and carry',
  bigTove: 'Big Tove',
  firstSteps: 'First steps,',
  ofIt: 'of',
  skip: 'Skip',
  putOneOnBig: 'Put one on Big Tove',
  done: 'Done',
  next: 'Next',
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
};

export const shell = {
  velvet: 'Velvet',
  reel: 'Reel',
  places: 'Places',
  alt: (i: string | number): string => `Alt ${i}`,
  connectionLostReconnecting: 'connection lost; reconnecting …',
  findOrDoAnything: 'Find or do anything',
  ctrlK: 'Ctrl K',
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
