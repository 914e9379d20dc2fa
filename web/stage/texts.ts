/** What people read in stage, by the file that shows it. */

export const figures = {
  theMeshOfA: 'The mesh of a character could not be loaded: its bones are shown.',
  theDrawingsOfA: 'The drawings of a character could not be loaded: its joints are shown.',
  theCharacterCouldNot: 'The character could not be loaded.',
};

export const jointPicker = {
  jointsThatLieHere: 'Joints that lie here',
  theseLieOnEach: 'These lie on each other',
  escCancels: (label: string | number): string => `${label} · Esc cancels`,
  andBesideIt: (near: string | number): string => ` and ${near} beside it`,
};

export const soloStage = {
  withBoxesFor: (label: string | number, join: string | number): string => `${label}, with boxes for ${join}`,
};

export const transport = {
  pause: 'Pause',
  play: 'Play',
  oneFrameBack: 'One frame back',
  oneFrameForward: 'One frame forward',
  frame: 'Frame',
  speedClickForThe: (speed: string | number): string => `Speed ${speed}; click for the next`,
  looping: 'Looping',
  playingOnce: 'Playing once',
};

export const paperArt = {
  theDrawingsOfA: 'The drawings of a character could not be loaded.',
};
