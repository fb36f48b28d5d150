import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Which room may not look into which. core ← contract ← document ← codec ← record ← {server, cli}; web sees no codec, and of record what needs none. */
const forbid = (...rooms) => ({
  'no-restricted-imports': [
    'error',
    {
      patterns: rooms.map((room) => ({
        group: [room.endsWith('.ts') ? `**/${room}` : `**/${room}/**`],
        message: `This room must not import ${room}.`,
      })),
    },
  ],
});

/** Files with functions of more than 20 branches: loops over pixels with many cases, and parts of pages that show many states. */
const BRANCHY = [
  'src/codec/decode.ts',
  'src/core/find/lines/ridges.ts',
  'src/core/find/specks/{speck-candidates,speck-features}.ts',
  'src/core/find/strand/straightest-path.ts',
  'src/core/mask/mask.ts',
  'src/core/plan/twin.ts',
  'src/core/repair/fill/{predict,search,wide}.ts',
  'src/core/repair/fill/grounds/{border,plane,ring}.ts',
  'src/core/repair/fill/layout/{border-moves,features,front,join,plans,tone}.ts',
  'src/core/repair/hand/{donor-search,membrane,solve-pose}.ts',
  'src/web/bench/hand/HandCard.tsx',
];

/** Rules that ask the type checker. */
const TYPED = tseslint.configs.recommendedTypeChecked.map((config) => ({ ...config, files: ['src/**/*.{ts,tsx}'] }));

export default tseslint.config(
  {
    ignores: [
      'dist',
      'data',
      '.photographs',
      'node_modules',
      'src/core/kernels/assembly',
      'src/core/kernels/kernels.gen.ts',
      'src/server/store/migrations',
      'test-results',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  ...TYPED,
  {
    files: ['**/*.{ts,tsx}'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      // No promise without an owner: what fails in the background must be told to somebody.
      '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: true }],
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      eqeqeq: 'error',
      // Methods of our plain objects use no `this`: they are taken out of them everywhere.
      '@typescript-eslint/unbound-method': 'off',
    },
  },
  {
    // Tests read answers as they come, and stand in for things that are asynchronous elsewhere.
    files: ['**/*.test.ts'],
    rules: {
      ...Object.fromEntries(
        ['argument', 'assignment', 'call', 'member-access', 'return'].map((what) => [
          `@typescript-eslint/no-unsafe-${what}`,
          'off',
        ]),
      ),
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/restrict-template-expressions': 'off',
    },
  },
  {
    files: ['**/*.{js,mjs}'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        Buffer: 'readonly',
        URL: 'readonly',
        setTimeout: 'readonly',
        clearTimeout: 'readonly',
        fetch: 'readonly',
      },
    },
  },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['**/contract/**', '**/codec/**', '**/record/**', '**/server/**', '**/web/**', '**/cli/**'],
              message: 'core imports nothing but core.',
            },
            { regex: '^[^.]', message: 'core uses no packages and no Node modules.' },
          ],
        },
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'Buffer', 'fetch', 'setTimeout'],
    },
  },
  { files: ['src/contract/**/*.ts'], rules: forbid('document', 'codec', 'record', 'server', 'web', 'cli') },
  { files: ['src/codec/**/*.ts'], ignores: ['**/*.test.ts'], rules: forbid('record', 'server', 'web', 'cli') },
  { files: ['src/record/**/*.ts'], ignores: ['**/*.test.ts'], rules: forbid('server', 'web', 'cli') },
  {
    files: ['src/server/**/*.ts'],
    rules: { ...forbid('web', 'cli'), '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: false }] },
  },
  {
    files: ['src/document/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: forbid('server', 'web', 'cli', 'codec', 'record'),
  },
  { files: ['src/cli/**/*.ts'], rules: forbid('web', 'server') },
  {
    files: ['src/web/**/*.{ts,tsx}'],
    plugins: { 'react-hooks': hooks },
    rules: {
      ...forbid('server', 'cli', 'codec', 'record/csv.ts', 'record/flat.ts', 'record/seal.ts', 'record/verify.ts'),
      ...hooks.configs.recommended.rules,
      // About the compiler of React, which is not used here.
      'react-hooks/incompatible-library': 'off',
      'react-hooks/refs': 'off',
      'react-hooks/immutability': 'off',
      'react-hooks/set-state-in-effect': 'off',
      'react-hooks/preserve-manual-memoization': 'off',
    },
  },
  {
    files: ['src/**/*.{ts,tsx}'],
    ignores: ['**/*.test.ts'],
    rules: { 'max-lines': ['error', { max: 300 }] },
  },
  { files: ['src/**/*.{ts,tsx}'], ignores: BRANCHY, rules: { complexity: ['error', 20] } },
);
