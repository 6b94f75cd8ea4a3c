import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ensureBuilt } from '../../scripts/machine/build.mjs'
import { freePort, startPostgres } from '../../scripts/machine/postgres.mjs'
import { startServer } from '../../scripts/machine/server.mjs'

const SIGNALS = ['SIGINT', 'SIGTERM']

/**
 * A database and a server of a test run's own, on the production build; both end with `stop`, or
 * when whoever started them is told to end.
 */
export async function startWorld({ port, env = {} } = {}) {
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
    return { address: server.address, databaseUrl: database.url, ended: server.ended, stop }
  } catch (error) {
    end()
    throw error
  }
}
