import next from '@next/eslint-plugin-next';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import imports from 'eslint-plugin-import-x';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Rooms of src and what each may import from; nothing points back. */
const ROOMS = {
  core: [],
  cad: ['core'],
  viewer: ['core'],
  runtime: ['core', 'cad'],
  store: ['core', 'runtime'],
  server: ['core', 'cad', 'runtime', 'store'],
  cli: ['core', 'cad', 'runtime', 'store'],
  features: ['core', 'viewer', 'runtime'],
};
const ALL = ['app', ...Object.keys(ROOMS)];

/** Rooms inside the core and inside the features: each may import from those before it. */
const CORE = [
  ['units', 'numerics', 'stage'],
  ['fields'],
  ['geometry'],
  ['partmaps'],
  ['model'],
  ['material', 'machine'],
  ['help'],
  ['grid'],
  ['formats'],
  ['feed'],
  ['solvers/melt'],
  ['solvers/shot'],
  ['solvers/fill'],
  ['solvers/pack'],
  ['solvers/cool', 'solvers/warp'],
  ['cooling'],
  ['setup'],
  ['results'],
  ['preview', 'pipeline'],
];
const FEATURES = [
  ['ui'],
  ['study'],
  ['help'],
  ['part'],
  ['feed'],
  ['cooling'],
  ['resin'],
  ['cycle'],
  ['answers'],
  ['shell'],
];

/** For every room of a ladder: nothing from beside it or above it. */
const ladder = (base, steps) =>
  steps.flatMap((step, k) =>
    step.flatMap((room) =>
      steps
        .slice(k)
        .flat()
        .filter((other) => other !== room)
        .map((other) => ({
          target: `./${base}/${room}`,
          from: `./${base}/${other}`,
          message: `${room} stands below ${other}.`,
        })),
    ),
  );

const walls = Object.entries(ROOMS).map(([room, allowed]) => {
  const forbidden = ALL.filter((other) => other !== room && !allowed.includes(other));
  const patterns = [
    {
      group: forbidden.flatMap((other) => [`@/${other}/**`, `**/../${other}/**`, `../${other}/**`]),
      message: `src/${room} may import from: ${allowed.join(', ') || 'itself'}.`,
    },
  ];
  if (room === 'core')
    patterns.push({
      group: [
        'react',
        'react-dom',
        'next',
        'next/*',
        'three',
        'three/*',
        '@react-three/*',
        'drizzle-orm',
        'drizzle-orm/*',
        'node:*',
      ],
      message: 'The core knows no interface, database or operating system.',
    });
  return {
    files: [`src/${room}/**/*.{ts,tsx}`],
    ignores: ['**/*.test.ts'],
    rules: { 'no-restricted-imports': ['error', { patterns }] },
  };
});

export default tseslint.config(
  { ignores: ['.next/', 'dist/', 'data/', 'node_modules/', 'drizzle/', 'assembly/', 'next-env.d.ts', 'scripts/zz*'] },
  ...tseslint.configs.recommended,
  {
    plugins: { '@next/next': next, 'react-hooks': hooks, 'import-x': imports },
    settings: { 'import-x/resolver-next': [createTypeScriptImportResolver()] },
    rules: {
      ...next.configs.recommended.rules,
      'import-x/no-cycle': 'error',
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
    },
  },
  ...walls,
  {
    files: ['src/**/*.{ts,tsx}'],
    ignores: ['**/*.test.ts'],
    rules: {
      'import-x/no-restricted-paths': [
        'error',
        { zones: [...ladder('src/core', CORE), ...ladder('src/features', FEATURES)] },
      ],
    },
  },
);
