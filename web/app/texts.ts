/** What people read in app, by the file that shows it. */

export const appLayout = {
  velvetReel: 'Velvet Reel',
  aSharedLibraryOf: 'A shared library of character motion.',
};

export const notFound = {
  pageNotFound: 'Page not found',
  toTheLibrary: 'To the library',
  theAddressMayBe:
    'The address may be mistyped, or what it showed has moved. Nothing is lost: deleted items are in the bin.',
};
