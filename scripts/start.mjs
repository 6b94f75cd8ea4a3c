// `npm start`: installs what is missing, starts a private PostgreSQL, builds if sources changed,
// loads the demo once, serves, and stops all of it on Ctrl-C.
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { ensureBuilt } from './machine/build.mjs'
import { ensureDebian } from './machine/debian.mjs'
import { ensurePackages } from './machine/packages.mjs'
import { dataFolder, freePort, startPostgres } from './machine/postgres.mjs'
import { command, root, say, Told } from './machine/run.mjs'
import { startServer } from './machine/server.mjs'

const development = process.argv.includes('--dev')

await command(async () => {
  await ensureDebian('postgresql')
  await ensurePackages()
  if (!development) ensureBuilt()
  const database = await startPostgres(dataFolder('postgres'))
  let interrupt = () => {}
  const interrupted = new Promise((resolve) => (interrupt = resolve))
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
    process.on(signal, () => interrupt('interrupted'))
  try {
    const port = await freePort(Number(process.env.PORT ?? 7250))
    if (development) return await develop(port, database.url, interrupted)
    const server = await startServer({ port, databaseUrl: database.url })
    process.stdout.write(`Salt Trail is at ${server.address}\n`)
    say('Ctrl-C stops it.')
    const how = await Promise.race([interrupted, server.ended.then(() => 'ended')])
    await server.stop()
    if (how === 'ended') throw new Told('the server ended by itself; its log above says why')
    say('stopped')
    return 0
  } finally {
    database.stop()
  }
})

/** The development server of Nuxt: run with node itself, since ending npx would leave it behind. */
async function develop(port, databaseUrl, interrupted) {
  const child = spawn(
    process.execPath,
    [
      join(root, 'node_modules/nuxt/bin/nuxt.mjs'),
      'dev',
      '--port',
      String(port),
      '--host',
      '127.0.0.1',
    ],
    {
      cwd: root,
      stdio: 'inherit',
      env: {
        ...process.env,
        DATABASE_URL: databaseUrl,
        NUXT_TELEMETRY_DISABLED: '1',
        SALT_TRAIL_LOCAL_ENTRY: process.env.SALT_TRAIL_LOCAL_ENTRY ?? 'yes',
      },
    },
  )
  const ended = new Promise((resolve) => child.once('exit', resolve))
  await Promise.race([interrupted, ended])
  child.kill('SIGTERM')
  await ended
  return 0
}
