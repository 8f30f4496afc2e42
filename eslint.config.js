import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

// What writes or locks rows stands in a room's `store.ts` (or `store-….ts`), where it is found. The kernel is the store of what all rooms share.
const WRITES = String.raw`/\b(INSERT INTO|UPDATE [a-z_]+ ([a-z] )?SET|DELETE FROM|FOR (NO KEY )?(UPDATE|SHARE)|LOCK TABLE)\b/`;

export default tseslint.config(
  { ignores: ['dist', 'node_modules', '.dockrow', 'test-results'] },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    plugins: { 'react-hooks': hooks },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { arguments: false, attributes: false } }],
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
      '@typescript-eslint/consistent-type-imports': ['error', { disallowTypeAnnotations: false }],
      // `_` names what is taken out of an object so that the rest can be passed on.
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_$', argsIgnorePattern: '^_$', ignoreRestSiblings: true }],
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      'no-console': 'error',
      eqeqeq: 'error',
      'max-len': ['error', { code: 140 }],
    },
  },
  {
    files: ['server/**/*.ts'],
    ignores: [
      'server/**/store.ts',
      'server/**/store-*.ts',
      'server/**/*.test.ts',
      'server/testing/**',
      'server/kernel/**',
      'server/backup/**',
    ],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: `:matches(TemplateElement[value.raw=${WRITES}], Literal[value=${WRITES}])`,
          message: 'SQL that writes or locks stands in the store.ts of its room.',
        },
      ],
    },
  },
  { files: ['server/audit-main.ts', 'bench/**', 'scripts/**', 'e2e/screenshots.ts', 'devices/**'], rules: { 'no-console': 'off' } },
  {
    files: ['**/*.mjs', '**/*.cjs'],
    ...tseslint.configs.disableTypeChecked,
    rules: {
      'no-console': 'off',
      '@typescript-eslint/no-require-imports': 'off',
      '@typescript-eslint/no-floating-promises': 'off',
      '@typescript-eslint/no-misused-promises': 'off',
      '@typescript-eslint/switch-exhaustiveness-check': 'off',
    },
  },
);
