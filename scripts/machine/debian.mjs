import { spawnSync } from 'node:child_process'
import { existsSync, readdirSync } from 'node:fs'
import { CHROMIUM } from './chromium.mjs'
import { isRoot, run, say, show, Told } from './run.mjs'

const LIB = '/usr/lib/postgresql'

/** The folder of the newest PostgreSQL's programs, or null. */
export function postgresPrograms() {
  if (!existsSync(LIB)) return null
  const versions = readdirSync(LIB)
    .filter((name) => existsSync(`${LIB}/${name}/bin/initdb`))
    .sort((a, b) => Number(b) - Number(a))
  return versions.length > 0 ? `${LIB}/${versions[0]}/bin` : null
}

const NEEDED = {
  postgresql: () => postgresPrograms() !== null,
  chromium: () => existsSync(CHROMIUM.executablePath),
}

/** The headless build is installed where Debian has one; a machine with the other needs none. */
function packageFor(name) {
  const headless = `${name}-headless-shell`
  return name === 'chromium' && isKnown(headless) ? headless : name
}
const isKnown = (name) => spawnSync('apt-cache', ['show', name]).status === 0

/** Installs the Debian packages that are missing; an ordinary user is told which. */
export async function ensureDebian(...names) {
  const missing = names.filter((name) => !NEEDED[name]())
  if (missing.length === 0) return
  if (!isRoot)
    throw new Told(
      `missing Debian packages: ${missing.join(', ')}. Install them as root: apt-get install ${missing.join(' ')}`,
    )
  if (!existsSync('/usr/bin/apt-get'))
    throw new Told(
      `missing: ${missing.join(', ')}, and this machine has no apt-get to install them with`,
    )
  say(`installing ${missing.join(', ')} …`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  run('apt-get', ['update', '-q'], { env })
  const status = await show(
    'apt-get',
    ['install', '-y', '-q', '--no-install-recommends', ...missing.map(packageFor)],
    { env, stdio: ['ignore', 'ignore', 2] },
  )
  if (status !== 0) throw new Told(`apt-get could not install ${missing.join(', ')}`)
}
