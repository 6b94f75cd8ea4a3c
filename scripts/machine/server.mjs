import { spawn } from 'node:child_process'
import { root, Told } from './run.mjs'
import { serverEntry } from './build.mjs'

/**
 * Enters a server of one's own by one click, as its owner under a name: the cookie of the session.
 */
export async function enterLocally(address, name = 'M. Dune') {
  const json = { 'content-type': 'application/json' }
  const entered = await fetch(`${address}/api/session/local`, {
    ...{ method: 'POST', headers: json, body: '{}' },
  })
  const cookie = entered.headers
    .getSetCookie()
    .map((one) => one.split(';')[0])
    .findLast((one) => !one.endsWith('='))
  if (!entered.ok || !cookie) throw new Told(`nobody is let in at ${address}`)
  await fetch(`${address}/api/account`, {
    ...{ method: 'PUT', headers: { ...json, cookie }, body: JSON.stringify({ name }) },
  })
  return cookie
}

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
      SALT_TRAIL_LOCAL_ENTRY: process.env.SALT_TRAIL_LOCAL_ENTRY ?? 'yes',
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
      await fetch(`${address}/api/ready`).then(
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
