import next from '@next/eslint-plugin-next';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Rooms of src and what each may import from; nothing points back. */
const ROOMS = {
  core: [],
  cad: ['core'],
  viewer: ['core'],
  runtime: ['core', 'cad'],
  server: ['core', 'cad', 'runtime'],
  cli: ['core', 'cad', 'runtime'],
  features: ['core', 'viewer', 'runtime'],
};
const ALL = ['app', ...Object.keys(ROOMS)];

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
    plugins: { '@next/next': next, 'react-hooks': hooks },
    rules: {
      ...next.configs.recommended.rules,
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
    },
  },
  ...walls,
);
