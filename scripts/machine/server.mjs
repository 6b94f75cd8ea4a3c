import { spawn } from 'node:child_process'
import { root, Told } from './run.mjs'
import { serverEntry } from './build.mjs'

/** Starts the built server and waits until it answers. Returns its process and how to stop it. */
export async function startServer({ port, databaseUrl, env = {} }) {
  const child = spawn(process.execPath, [serverEntry], {
    cwd: root,
    // Its own group: Ctrl-C reaches this script only, which then stops everything in order.
    detached: true,
    stdio: ['ignore', 'ignore', 'inherit'],
    env: {
      ...process.env,
      NODE_ENV: 'production',
      SALT_TRAIL_LOG: 'warn',
      ...env,
      HOST: '127.0.0.1',
      NITRO_HOST: '127.0.0.1',
      PORT: String(port),
      NITRO_PORT: String(port),
      DATABASE_URL: databaseUrl,
    },
  })
  const ended = new Promise((resolve) => child.once('exit', resolve))
  let over = false
  ended.then(() => (over = true))
  const address = `http://127.0.0.1:${port}`
  for (let waited = 0; !over; waited += 50) {
    if (waited > 60_000) throw new Told('the server did not answer within a minute')
    if (
      await fetch(`${address}/api/estates`).then(
        (r) => r.ok,
        () => false,
      )
    )
      break
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  if (over) throw new Told('the server ended while starting; its log above says why')
  const stop = async () => {
    if (!over) child.kill('SIGTERM')
    const late = setTimeout(() => child.kill('SIGKILL'), 5_000)
    await ended
    clearTimeout(late)
  }
  return { address, ended, stop }
}
