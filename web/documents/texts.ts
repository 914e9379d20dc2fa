/** What people read in documents, by the file that shows it. */

export const useDocument = {
  somebodyHasChangedPart: 'Somebody has changed part of this since. Their change was kept.',
};
