import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ensureBuilt } from '../../scripts/machine/build.mjs'
import { freePort, startPostgres } from '../../scripts/machine/postgres.mjs'
import { enterLocally, startServer } from '../../scripts/machine/server.mjs'

const SIGNALS = ['SIGINT', 'SIGTERM']

/**
 * A database and a server of a test run's own, on the production build; both end with `stop`, or
 * when whoever started them is told to end.
 */
export async function startWorld({ port, env = {}, enters = true } = {}) {
  ensureBuilt()
  const folder = mkdtempSync(join(tmpdir(), 'salt-trail-test-'))
  chmodSync(folder, 0o755)
  const database = await startPostgres(folder)
  const end = () => {
    database.stop()
    rmSync(folder, { recursive: true, force: true })
  }
  try {
    const server = await startServer({
      port: port || (await freePort(0)),
      databaseUrl: database.url,
      env: { SALT_TRAIL_LOG: 'error', ...env },
    })
    const stop = async () => {
      for (const signal of SIGNALS) process.off(signal, interrupted)
      await server.stop()
      end()
    }
    const interrupted = () => void stop().finally(() => process.exit(1))
    for (const signal of SIGNALS) process.on(signal, interrupted)
    const cookie = enters ? await enterLocally(server.address) : null
    return {
      address: server.address,
      databaseUrl: database.url,
      ended: server.ended,
      cookie,
      /** The same as a browser keeps it. */
      storageState: stateOf(cookie),
      stop,
    }
  } catch (error) {
    end()
    throw error
  }
}

function stateOf(cookie) {
  const [name, ...value] = (cookie ?? '').split('=')
  const about = { path: '/', expires: -1, httpOnly: true, secure: false, sameSite: 'Strict' }
  const kept = { name, value: value.join('='), domain: '127.0.0.1', ...about }
  return { cookies: cookie === null ? [] : [kept], origins: [] }
}
