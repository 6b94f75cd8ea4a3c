import prettier from 'eslint-config-prettier'
import withNuxt from './.nuxt/eslint.config.mjs'

/** The layers of the core, lowest first: each may use those before it, and nothing else. */
const LAYERS = [
  'incremental',
  'address',
  'format',
  'changes',
  'drafts',
  'packet',
  'model',

  'routes',
  'rules',
  'likeness',
  'walk',
  'trace',
  'mend',
  'steering',
  'flows',
  'hops',
  'exits',
  'addresses',
  'map',
  'expectations',
  'ways-in',
  'findings',
  'root-causes',
  'compare',
  'analysis',
  'consequences',
  'plans',
  'proposals',
  'moves',
  'objects',
]
/** Packages without any input or output of their own, which the core may use. */
const PURE = ['zod', 'yaml', 'fastest-levenshtein', 'jsonc-parser']

const OUTSIDE = {
  regex: `^(?!\\.{1,2}/)(?!(${PURE.join('|')})$)`,
  message: 'The core is pure: it uses itself and packages without input or output.',
}
const BEYOND = {
  regex: '(^|/)(server|app|cli|scripts|test)/',
  message: 'The core imports nothing from the rest of the repository.',
}

const layers = LAYERS.map((layer, index) => {
  const higher = LAYERS.slice(index + 1)
  const rank =
    higher.length === 0
      ? []
      : [
          {
            regex: `^(\\.\\./)+(${higher.join('|')})/`,
            message: `${layer} is below ${higher.join(', ')} in the core, and uses none of them.`,
          },
        ]
  return {
    files: [`core/src/${layer}/**/*.ts`],
    rules: { 'no-restricted-imports': ['error', { patterns: [OUTSIDE, BEYOND, ...rank] }] },
  }
})

export default withNuxt(
  {
    ignores: [
      '**/*.tsbuildinfo',
      '.output/**',
      '.nuxt/**',
      '.nuxt-build/**',
      '.data/**',
      'server/database/migrations/**',
      'docs/**',
    ],
  },
  {
    files: ['core/src/**/*.ts'],
    rules: {
      'no-restricted-globals': [
        'error',
        'process',
        'Buffer',
        'fetch',
        'window',
        'document',
        'console',
        'setTimeout',
        'setInterval',
      ],
      'no-restricted-imports': ['error', { patterns: [OUTSIDE, BEYOND] }],
      // A longer function is disabled by name, with its reason.
      'max-lines-per-function': ['error', { max: 60, skipComments: true, skipBlankLines: true }],
    },
  },
  ...layers,
  {
    files: ['contract/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: '(^|/)(server|app|cli|scripts)/',
              message: 'The contract is what server and app share.',
            },
          ],
        },
      ],
    },
  },
  {
    files: ['app/**/*.{ts,vue}'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: '(^|/)(server|cli|scripts)/',
              message: 'The view speaks to the server through its API.',
            },
          ],
        },
      ],
      // It leads nowhere while another navigation is under way.
      'no-restricted-globals': [
        'error',
        {
          name: 'navigateTo',
          message: 'Write `useRouter().push`, which replaces what is under way.',
        },
      ],
    },
  },
  {
    rules: {
      'max-lines': ['error', { max: 400, skipBlankLines: true }],
      '@typescript-eslint/no-explicit-any': 'error',
      'vue/multi-word-component-names': 'off',
      'vue/html-self-closing': 'off',
    },
  },
  prettier,
)
