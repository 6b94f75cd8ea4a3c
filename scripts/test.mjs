// `npm test`: installs what is missing and runs every check. The last line counts them all.
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { ensureDebian } from './machine/debian.mjs'
import { ensurePackages } from './machine/packages.mjs'
import { freePort } from './machine/postgres.mjs'
import { command, root, say, show } from './machine/run.mjs'

const results = join(root, 'test-results')
const module = (path) => join(root, 'node_modules', path)
const env = { ...process.env, NUXT_TELEMETRY_DISABLED: '1', FORCE_COLOR: '0' }
const node = (args, extra = {}) => show(process.execPath, args, { env: { ...env, ...extra } })

/** A check that passes or fails as a whole. */
async function whole(name, args) {
  say(`\n${name}`)
  return (await node(args)) === 0 ? { passed: 1, failed: 0 } : { passed: 0, failed: 1 }
}

/** What is read of the code alone. */
async function lintAndLayout() {
  const cache = ['--cache', '--cache-location', module('.cache/eslint')]
  const lint = [module('eslint/bin/eslint.js'), '.', '--max-warnings', '0', ...cache]
  const layout = [module('prettier/bin/prettier.cjs'), '--check', '--log-level', 'warn', '--cache']
  return [
    await whole('lint, with the borders of the core', lint),
    await whole('layout of the code', [...layout, '.']),
  ]
}

async function jest(name, projects) {
  say(`\n${name}`)
  const file = join(results, `jest-${projects[0]}.json`)
  const status = await node([
    module('jest/bin/jest.js'),
    '--json',
    `--outputFile=${file}`,
    '--silent',
    '--selectProjects',
    ...projects,
  ])
  if (!existsSync(file)) return { passed: 0, failed: 1 }
  const {
    numPassedTests: passed,
    numFailedTests: failed,
    numRuntimeErrorTestSuites: broken,
  } = JSON.parse(readFileSync(file, 'utf8'))
  // A run that failed outside any test, or that ran none, has failed.
  return {
    passed,
    failed:
      failed + broken + (status !== 0 && failed + broken === 0 ? 1 : 0) + (passed === 0 ? 1 : 0),
  }
}

async function playwright() {
  say('\ntests in the browser')
  const file = join(results, 'playwright.json')
  const port = await freePort(7350)
  const status = await node([module('@playwright/test/cli.js'), 'test'], {
    SALT_TRAIL_E2E_PORT: String(port),
  })
  if (!existsSync(file)) return { passed: 0, failed: 1 }
  const { expected: passed, unexpected, flaky } = JSON.parse(readFileSync(file, 'utf8')).stats
  const failed = unexpected + flaky
  return { passed, failed: failed + (status !== 0 && failed === 0 ? 1 : 0) }
}

await command(async () => {
  await ensureDebian('postgresql', 'chromium')
  await ensurePackages()
  rmSync(results, { recursive: true, force: true })
  mkdirSync(results, { recursive: true })
  const nuxt = module('nuxt/bin/nuxt.mjs')
  const prepared = await whole('preparing', [nuxt, 'prepare'])
  // Types beside lint and layout take a core each; what they leave idle goes to the build.
  const [typed, built, others] = await Promise.all([
    whole('type check', [module('vue-tsc/bin/vue-tsc.js'), '-b', '--noEmit']),
    whole('building', [join(root, 'scripts/build.mjs')]),
    lintAndLayout(),
  ])
  const checks = [prepared, typed, built, ...others]
  const all = ['core', 'app', 'cli', 'server']
  checks.push(await jest('tests of core, view, command line and server', all))
  checks.push(await jest('what others wait, with nothing beside it', ['alone']))
  checks.push(await playwright())
  const passed = checks.reduce((sum, check) => sum + check.passed, 0)
  const failed = checks.reduce((sum, check) => sum + check.failed, 0)
  process.stdout.write(`${passed} passed, ${failed} failed\n`)
  return failed === 0 ? 0 : 1
})
