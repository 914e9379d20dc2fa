/** @type {import('jest').Config} */
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
const shared = {
  transform,
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  testEnvironment: '<rootDir>/scripts/jest/quick-node.mjs',
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/web/$1' },
  // what a build writes comes and goes, and is no test's business
  modulePathIgnorePatterns: ['<rootDir>/web/.next/', '<rootDir>/.data/', '<rootDir>/dist/', '<rootDir>/cli/dist/'],
  transformIgnorePatterns: ['/node_modules/(?!@velvet-reel)'],
};
export default {
  projects: [
    { ...shared, displayName: 'motion', testMatch: ['<rootDir>/motion/**/*.test.ts'] },
    { ...shared, displayName: 'demo', testMatch: ['<rootDir>/demo/**/*.test.ts'] },
    { ...shared, displayName: 'cli', testMatch: ['<rootDir>/cli/**/*.test.ts'] },
    { ...shared, displayName: 'web', testMatch: ['<rootDir>/web/**/*.test.ts'] },
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
