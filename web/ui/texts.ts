/** What people read in ui, by the file that shows it. */

export const chip = {
  remove: (label: string | number): string => `Remove ${label}`,
};

export const dialog = {
  close: 'Close',
};

export const slider = {
  reset: (label: string | number): string => `Reset ${label}`,
};
