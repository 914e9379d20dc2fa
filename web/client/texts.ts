/** What people read in client, by the file that shows it. */

export const session = {
  velvetReel: 'Velvet Reel',
  tryAgain: 'Try again',
  openingTheLibrary: 'Opening the library …',
  thePerformerCouldNot: (why: string | number): string => `The performer could not be changed: ${why}`,
};

export const signIn = {
  velvet: 'Velvet',
  reel: 'Reel',
  aSharedLibraryOf:
    'A shared library of motion. Every take is a strip that you can read, play on your performer and fit to any character.',
  demoAccounts: 'Demo accounts',
  theDemoWorldOf: 'The demo world of the Saltmarsh Ferry. Sign in as',
  welcome: (name: string | number): string => `Welcome, ${name}`,
  invitesYouAsChoose: (by: string | number, role: string | number): string =>
    `${by} invites you as ${role}. Choose how you sign in.`,
  theFirstAccount: 'The first account',
  noOneHasAn: 'No one has an account yet. This first one is the admin’s, who can then add everybody else.',
  setUpCode: 'Set-up code',
  shownWhereTheApplication: 'Shown where the application was started',
  signIn: 'Sign in',
  eMailAddress: 'E-mail address',
  password: 'Password',
  signingIn: 'Signing in …',
  yourCode: 'Your code',
  typeTheCodeThat: 'Type the code that your authenticator shows now, or one of the ten that you kept.',
  code: 'Code',
  back: 'Back',
  name: 'Name',
  passwordAtLeast10: 'Password, at least 10 characters',
  createItAndSign: 'Create it and sign in',
  signInWith: (studio: string | number): string => `Sign in with ${studio}`,
};

export const api = {
  theServerAnsweredWith: (status: string | number): string => `The server answered with ${status}.`,
  theServerCannotBe: 'The server cannot be reached. Is it still running?',
};

export const solver = {
  theSolverOfThis: 'The solver of this page could not be started. Check the connection and try again.',
};
