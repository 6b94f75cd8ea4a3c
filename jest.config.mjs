const shared = {
  transform: {
    '^.+\\.[mc]?[jt]s$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  moduleFileExtensions: ['ts', 'mjs', 'js', 'json'],
  transformIgnorePatterns: ['/node_modules/(?!@seriousme/)'],
}

/** What is tested against a server of the run's own and a real PostgreSQL. */
const server = {
  ...shared,
  setupFilesAfterEnv: ['<rootDir>/test/server/parse-answers.ts'],
  globalSetup: '<rootDir>/test/machine/jest-setup.mjs',
  globalTeardown: '<rootDir>/test/machine/jest-teardown.mjs',
}

/** The core by itself, what else is pure, and the server against a real PostgreSQL. */
export default {
  coverageProvider: 'v8',
  testTimeout: 30_000,
  maxWorkers: '100%',
  projects: [
    { ...shared, displayName: 'core', testMatch: ['<rootDir>/core/test/**/*.test.ts'] },
    {
      ...shared,
      displayName: 'app',
      // Packages of the page that come as modules alone.
      transformIgnorePatterns: [
        '/node_modules/(?!(@pinia|pinia|nostics|@vueuse|vue-router|@vue)/)',
      ],
      testMatch: ['<rootDir>/test/{app,nuxt}/**/*.test.ts'],
      // What a package has for the browser is a module; the tests take the same for Node.
      moduleNameMapper: {
        '^~/(.*)$': '<rootDir>/app/$1',
        '^csv-stringify/browser/esm/sync$': 'csv-stringify/sync',
        '^nostics/reporters/dev$': '<rootDir>/test/nuxt/no-reporter.ts',
      },
    },
    { ...shared, displayName: 'cli', testMatch: ['<rootDir>/test/cli/**/*.test.ts'] },
    { ...server, displayName: 'server', testMatch: ['<rootDir>/test/server/**/*.test.ts'] },
    // What measures how long others wait: run with nothing beside it.
    { ...server, displayName: 'alone', testMatch: ['<rootDir>/test/alone/**/*.test.ts'] },
  ],
}
