/** Unit tests stand beside what they test; swc only strips the types. */
export default {
  testEnvironment: 'node',
  testMatch: ['<rootDir>/src/**/*.test.ts', '<rootDir>/bench/**/*.test.ts'],
  maxWorkers: 2,
  transform: {
    '^.+\\.[jt]sx?$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript', tsx: true }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  transformIgnorePatterns: ['/node_modules/(?!(iobuffer|fast-png|fflate|tiff)/)'],
  testTimeout: 180000,
};
