const transform = {
  '^.+\\.(t|j)sx?$': [
    '@swc/jest',
    {
      jsc: {
        parser: { syntax: 'typescript', tsx: true },
        target: 'es2022',
        transform: { react: { runtime: 'automatic' } },
      },
      module: { type: 'es6' },
    },
  ],
};
// what a build writes comes and goes, and is no test's business
const modulePathIgnorePatterns = ['<rootDir>/web/.next/', '<rootDir>/.data/', '<rootDir>/dist/', '<rootDir>/cli/dist/'];
/** Accounts count, in their process, how often somebody tried to come in. */
const APART = 'web/server/auth/';
/**
 * Where nothing has to be kept apart, all files of a project share Node's own modules: each is loaded once, not once a file,
 * which takes a quarter off. What leaves something behind in its process, or moves the clock, is among those below.
 */
const light = {
  runner: 'jest-light-runner/child-process',
  setupFiles: ['<rootDir>/scripts/jest/typescript.mjs'],
  modulePathIgnorePatterns,
};
const shared = {
  transform,
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  testEnvironment: '<rootDir>/scripts/jest/quick-node.mjs',
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/web/$1' },
  modulePathIgnorePatterns,
  transformIgnorePatterns: ['/node_modules/(?!@velvet-reel)'],
};
/** @type {import('jest').Config} */
export default {
  projects: [
    { ...light, displayName: 'motion', testMatch: ['<rootDir>/motion/**/*.test.ts'] },
    { ...light, displayName: 'demo', testMatch: ['<rootDir>/demo/**/*.test.ts'] },
    {
      ...light,
      displayName: 'server',
      testMatch: ['<rootDir>/web/server/**/*.test.ts'],
      testPathIgnorePatterns: [APART],
    },
    { ...shared, displayName: 'cli', testMatch: ['<rootDir>/cli/**/*.test.ts'] },
    {
      ...shared,
      displayName: 'web',
      testMatch: ['<rootDir>/web/!(server)/**/*.test.ts', `<rootDir>/${APART}**/*.test.ts`],
    },
    {
      ...shared,
      displayName: 'interface',
      testEnvironment: 'jsdom',
      setupFiles: ['<rootDir>/web/test/quick-styles.ts'],
      testMatch: ['<rootDir>/web/**/*.test.tsx'],
      // there is no WebGL; what draws is looked at in the browser
      moduleNameMapper: {
        ...shared.moduleNameMapper,
        '^@react-three/(fiber|drei)$': '<rootDir>/web/test/no-webgl.tsx',
        '^react/jsx-runtime$': '<rootDir>/scripts/jest/quick-jsx.cjs',
        // one file instead of two thousand
        '^lucide-react$': '<rootDir>/node_modules/lucide-react/dist/cjs/lucide-react.js',
      },
    },
  ],
  // what computes gives way to what waits, and may stand still for a while
  testTimeout: 240_000,
};
