import next from 'eslint-config-next/core-web-vitals';
import nextTypescript from 'eslint-config-next/typescript';
import prettier from 'eslint-config-prettier';
import boundaries from 'eslint-plugin-boundaries';

/**
 * The house's folders and what each may import (docs/architecture.md). Innermost first: the first match
 * counts.
 */
const elements = [
  { type: 'core-errors', pattern: 'src/core/*.ts', mode: 'full' },
  { type: 'core-bytes', pattern: 'src/core/bytes/**', mode: 'full' },
  { type: 'core-codecs', pattern: 'src/core/codecs/**', mode: 'full' },
  { type: 'core-format', pattern: 'src/core/formats/*/**', mode: 'full', capture: ['format'] },
  { type: 'core-plan', pattern: 'src/core/plan/**', mode: 'full' },
  { type: 'core', pattern: 'src/core/**', mode: 'full' },
  { type: 'platform-browser', pattern: 'src/platform/browser/**', mode: 'full' },
  { type: 'platform-node', pattern: 'src/platform/node/**', mode: 'full' },
  { type: 'platform-any', pattern: 'src/platform/any/**', mode: 'full' },
  { type: 'worker-client', pattern: 'src/workers/*/*-client.ts', mode: 'full' },
  { type: 'worker', pattern: 'src/workers/**', mode: 'full' },
  { type: 'link', pattern: 'src/link/**', mode: 'full' },
  { type: 'cable', pattern: 'src/cable/**', mode: 'full' },
  { type: 'stand-in', pattern: 'src/stand-in/**', mode: 'full' },
  { type: 'cli', pattern: 'src/cli/**', mode: 'full' },
  { type: 'contracts', pattern: 'src/contracts/**', mode: 'full' },
  { type: 'server-db', pattern: 'src/server/{db,repositories,vault}/**', mode: 'full' },
  { type: 'server', pattern: 'src/server/**', mode: 'full' },
  { type: 'feature-actions', pattern: 'src/features/*/actions.ts', mode: 'full', capture: ['feature'] },
  { type: 'feature', pattern: 'src/features/*/**', mode: 'full', capture: ['feature'] },
  { type: 'ui', pattern: 'src/ui/**', mode: 'full' },
  { type: 'app', pattern: 'src/app/**', mode: 'full' },
  { type: 'app', pattern: 'src/proxy.ts', mode: 'full' },
  { type: 'app', pattern: 'src/instrumentation.ts', mode: 'full' },
  { type: 'demo', pattern: 'src/demo/**', mode: 'full' },
  { type: 'outside', pattern: '{tests,scripts}/**', mode: 'full' },
];
const coreParts = ['core-errors', 'core-bytes', 'core-codecs', 'core-format', 'core-plan', 'core'];
const rules = [
  { from: 'core-errors', allow: ['core-errors', 'core-bytes', 'core-codecs', 'core-format'] },
  { from: 'core-bytes', allow: ['core-errors', 'core-bytes'] },
  { from: 'core-codecs', allow: ['core-errors', 'core-bytes', 'core-codecs'] },
  {
    from: 'core-format',
    allow: ['core-errors', 'core-bytes', 'core-codecs', ['core-format', { format: '${from.format}' }]],
  },
  { from: 'core-plan', allow: ['core-errors', 'core-plan'] },
  { from: 'core', allow: coreParts },
  { from: 'platform-any', allow: [...coreParts, 'platform-any'] },
  { from: 'platform-browser', allow: [...coreParts, 'platform-any', 'platform-browser'] },
  { from: 'platform-node', allow: [...coreParts, 'platform-any', 'platform-node'] },
  {
    from: ['worker', 'worker-client'],
    allow: [...coreParts, 'platform-browser', 'platform-any', 'contracts', 'worker', 'worker-client'],
  },
  { from: 'link', allow: [...coreParts, 'link'] },
  { from: 'cable', allow: [...coreParts, 'platform-browser', 'link', 'contracts', 'cable'] },
  { from: 'stand-in', allow: [...coreParts, 'platform-node', 'stand-in'] },
  { from: 'cli', allow: [...coreParts, 'platform-node', 'link', 'stand-in', 'contracts', 'cli'] },
  { from: 'contracts', allow: [...coreParts, 'contracts'] },
  {
    from: ['server', 'server-db'],
    allow: [...coreParts, 'platform-node', 'contracts', 'link', 'server', 'server-db'],
  },
  {
    from: 'feature-actions',
    allow: [...coreParts, 'contracts', 'server', ['feature', { feature: '${from.feature}' }]],
  },
  {
    from: 'feature',
    allow: [
      ...coreParts,
      'contracts',
      'ui',
      'worker-client',
      'cable',
      ['feature', { feature: '${from.feature}' }],
      ['feature-actions', { feature: '${from.feature}' }],
    ],
  },
  { from: 'ui', allow: [...coreParts, 'contracts', 'ui'] },
  { from: 'app', allow: ['feature', 'ui', 'server', 'contracts', 'core-errors', 'app'] },
  {
    from: 'demo',
    allow: [
      ...coreParts,
      'platform-any',
      'platform-node',
      'server',
      'server-db',
      'contracts',
      'stand-in',
      'demo',
    ],
  },
  { from: 'outside', allow: ['*'] },
];

/** Readers of formats and exhaustive tables of cases, which read better in one piece than in two. */
const IN_ONE_PIECE = [
  'src/core/codecs/lz4-frame.ts',
  'src/core/formats/{boot-image/layout,facts/parse-facts,payload/extract,payload/layout}.ts',
  'src/core/handset/{operate,screen,start,variables}.ts',
  'src/core/patch/{apply-steps,unpatch-image}.ts',
  'src/core/schedule/plain-calendar.ts',
  'src/core/text/align-strings.ts',
  'src/platform/any/lzma.ts',
  'src/server/services/calendar-file.ts',
  'src/stand-in/{system-server,wire-session}.ts',
];
/** Long because they are lists: tables, demo records, and what belongs to one state or one port. */
const LONG = [
  'src/core/codecs/lz4-block.ts',
  'src/demo/demo-{handsets,records}.ts',
  'src/features/firmware/use-{package,table}.ts',
  'src/link/stand-in-link.ts',
  'src/platform/any/open-zip.ts',
  'src/server/db/migrations/**',
];

const config = [
  {
    ignores: [
      '.next/**',
      'node_modules/**',
      'data/**',
      'next-env.d.ts',
      'test-results/**',
      'playwright-report/**',
    ],
  },
  ...next,
  ...nextTypescript,
  {
    files: ['src/**/*.{ts,tsx}', 'tests/**/*.ts', 'scripts/**/*.ts'],
    plugins: { boundaries },
    settings: {
      'boundaries/elements': elements,
      'boundaries/include': ['src/**/*'],
      'import/resolver': { typescript: true },
    },
    rules: {
      'boundaries/element-types': ['error', { default: 'disallow', rules }],
      'boundaries/no-unknown': 'error',
      'boundaries/no-unknown-files': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', ignoreRestSiblings: true }],
      '@typescript-eslint/consistent-type-imports': 'error',
      eqeqeq: 'error',
    },
  },
  { files: ['src/**/*.test.ts', 'src/**/*.test.tsx'], rules: { 'boundaries/element-types': 'off' } },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['src/core/**/*.test.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: '^(?!\\.|@/core|protobufjs/minimal$|long$)',
              message: 'core imports itself, protobufjs/minimal and long only',
            },
          ],
        },
      ],
    },
  },
  {
    files: ['src/**/*.{ts,tsx}'],
    ignores: ['src/**/*.test.ts', ...IN_ONE_PIECE],
    rules: { complexity: ['error', 15] },
  },
  {
    files: ['src/**/*.ts'],
    ignores: ['src/**/*.test.ts', ...IN_ONE_PIECE, ...LONG],
    rules: { 'max-lines-per-function': ['error', { max: 75, skipComments: true, skipBlankLines: true }] },
  },
  {
    // mostly markup
    files: ['src/**/*.tsx'],
    rules: { 'max-lines-per-function': ['error', { max: 100, skipComments: true, skipBlankLines: true }] },
  },
  {
    files: ['src/{app,features,ui}/**/*.{ts,tsx}'],
    ignores: ['src/ui/link.tsx'],
    rules: {
      'no-restricted-imports': [
        'error',
        { paths: [{ name: 'next/link', message: 'links are those of @/ui/link' }] },
      ],
    },
  },
  {
    // no React there: its rules, which compile every file, would only take time
    files: [
      'src/{core,server,link,platform,stand-in,cli,contracts,demo,workers}/**',
      'tests/**',
      'scripts/**',
      '*.{mjs,mts,ts}',
    ],
    rules: Object.fromEntries(
      next
        .flatMap(({ rules }) => Object.keys(rules ?? {}))
        .filter((name) => /^react(-hooks)?\//.test(name))
        .map((name) => [name, 'off']),
    ),
  },
  { files: ['*.mjs', 'scripts/**/*.mjs'], rules: { 'import/no-anonymous-default-export': 'off' } },
  prettier,
];
export default config;
