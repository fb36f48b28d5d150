/** Unit tests stand beside what they test. Ours is bundled, what is only there as a module of packages is made one that can be required. */
export default {
  testEnvironment: 'node',
  testMatch: ['<rootDir>/src/**/*.test.ts', '<rootDir>/bench/**/*.test.ts'],
  // One more than there are cores on a small machine: the tests of the server wait for it half of the time.
  maxWorkers: 3,
  transform: {
    '/(src|bench)/.+\\.test\\.ts$': '<rootDir>/scripts/jest-bundle.mjs',
    '^.+\\.[jt]sx?$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript', tsx: true }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  transformIgnorePatterns: ['/node_modules/(?!(iobuffer|fast-png|fflate|tiff)/)'],
  testTimeout: 180000,
};
