const common = {
  transform: {
    '^.+\\.tsx?$': ['@swc/jest', { jsc: { parser: { syntax: 'typescript', tsx: true }, target: 'es2022' }, module: { type: 'es6' } }],
  },
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  testEnvironment: 'node',
};
export default {
  // A machine that does much else beside is slow, and no test says anything about speed.
  testTimeout: 20_000,
  projects: [
    {
      ...common,
      displayName: 'core',
      testMatch: ['<rootDir>/core/**/*.test.ts', '<rootDir>/contract/**/*.test.ts', '<rootDir>/web/**/*.test.ts'],
    },
    {
      ...common,
      displayName: 'server',
      testMatch: ['<rootDir>/server/**/*.test.ts', '<rootDir>/demo/**/*.test.ts'],
      globalSetup: '<rootDir>/server/testing/global-setup.ts',
    },
  ],
};
