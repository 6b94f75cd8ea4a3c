import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root, run, say, Told } from './run.mjs'

const SOURCES = [
  'app',
  'core/src',
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

export const serverEntry = join(root, '.output/server/index.mjs')

/** Makes the production build, unless the sources are those it was made from. */
export function ensureBuilt() {
  const sources = fingerprint()
  if (existsSync(serverEntry) && existsSync(stamp) && readFileSync(stamp, 'utf8') === sources)
    return
  say('building …')
  try {
    run(process.execPath, [join(root, 'node_modules/nuxt/bin/nuxt.mjs'), 'build'], {
      env: { ...process.env, NODE_ENV: 'production', NUXT_TELEMETRY_DISABLED: '1' },
      maxBuffer: 64 * 1024 * 1024,
    })
  } catch (error) {
    throw new Told(`the build failed. ${error.message}`)
  }
  writeFileSync(stamp, sources)
}
