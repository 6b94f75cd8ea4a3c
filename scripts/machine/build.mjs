import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root, run, say, Told } from './run.mjs'

const SOURCES = [
  'app',
  'core/src',
  'contract',
  'core/package.json',
  'demo',
  'examples',
  'modules',
  'public',
  'server',
  'nuxt.config.ts',
  'package-lock.json',
]
const stamp = join(root, '.output/.sources')

function* filesOf(path) {
  if (!statSync(path).isDirectory()) yield path
  else for (const name of readdirSync(path).sort()) yield* filesOf(join(path, name))
}

function fingerprint() {
  const hash = createHash('sha256').update(process.version)
  for (const source of SOURCES) {
    const path = join(root, source)
    if (!existsSync(path)) continue
    for (const file of filesOf(path))
      hash.update(file.slice(root.length)).update('\0').update(readFileSync(file)).update('\0')
  }
  return hash.digest('hex')
}

const nuxt = (what, env = {}) =>
  run(process.execPath, [join(root, 'node_modules/nuxt/bin/nuxt.mjs'), what], {
    env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1', ...env },
    maxBuffer: 64 * 1024 * 1024,
  })

export const serverEntry = join(root, '.output/server/index.mjs')

/** Makes the production build, unless the sources are those it was made from. */
export function ensureBuilt() {
  const sources = fingerprint()
  if (existsSync(serverEntry) && existsSync(stamp) && readFileSync(stamp, 'utf8') === sources)
    return
  say('building …')
  try {
    // The build reads the settings of types in `.nuxt`, which a fresh clone lacks.
    if (!existsSync(join(root, '.nuxt/tsconfig.app.json'))) nuxt('prepare')
    nuxt('build', { NODE_ENV: 'production', SALT_TRAIL_BUILD_FOLDER: '.nuxt-build' })
  } catch (error) {
    throw new Told(`the build failed. ${error.message}`)
  }
  writeFileSync(stamp, sources)
}
