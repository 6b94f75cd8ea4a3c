import { createHash } from 'node:crypto'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root, say, show, Told } from './run.mjs'

const stamp = join(root, 'node_modules/.salt-trail-lock')

/** Installs the npm packages of the lockfile, unless exactly these are there. */
export async function ensurePackages() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  say('installing npm packages …')
  const status = await show('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'])
  if (status !== 0) throw new Told('npm ci failed')
  writeFileSync(stamp, lock)
}
