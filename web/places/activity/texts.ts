/** What people read in places/activity, by the file that shows it. */

export const activityPlace = {
  today: 'Today',
  yesterday: 'Yesterday',
  activity: 'Activity',
  by: 'By',
  everybody: 'everybody',
  theActivityCouldNot: 'The activity could not be loaded',
  nothingHasHappenedYet: 'Nothing has happened yet',
  andMore: (count: string | number): string => ` and ${count} more`,
  show: 'show',
  undoThis: 'Undo this',
  reading: 'Reading …',
  earlier: 'Earlier',
};
