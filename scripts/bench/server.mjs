// `npm run bench:server [-- S|M|L]`: traces through the HTTP API of the production build, at 100
// requests a second.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { cpus, tmpdir, totalmem } from 'node:os'
import { join } from 'node:path'
import { command, root } from '../machine/run.mjs'
import { startWorld } from '../../test/machine/world.mjs'

const RATE = 100
const SECONDS = 20

await command(async () => {
  const size = process.argv[2] ?? 'L'
  const folder = mkdtempSync(join(tmpdir(), 'salt-trail-bench-'))
  const world = await startWorld()
  try {
    const file = join(folder, 'estate.json')
    execFileSync(
      process.execPath,
      ['--import', 'tsx', 'scripts/generator/main.ts', '--size', size, '--out', file],
      { cwd: root },
    )
    const text = readFileSync(file, 'utf8')
    const send = (path, body) =>
      fetch(`${world.address}${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', cookie: world.cookie },
        body: JSON.stringify(body),
      })
    const saved = await (
      await send('/api/estates', { files: [{ name: 'estate.json', text }] })
    ).json()
    const base = `/api/estates/${saved.slug}/1`
    const hosts = Object.keys(JSON.parse(text).interfaces)
    const ask = (i) =>
      send(`${base}/trace`, {
        from: `interface:${hosts[(i * 7919) % hosts.length]}`,
        to: i % 2 ? 'internet' : `interface:${hosts[(i * 104729) % hosts.length]}`,
        port: 443,
      })
    const analysed = Date.now()
    for (
      let state = 'running';
      state === 'running';
      await new Promise((done) => setTimeout(done, 500))
    )
      state = (
        await (
          await fetch(`${world.address}${base}/analysis`, { headers: { cookie: world.cookie } })
        ).json()
      ).state
    for (let i = 0; i < 300; i++) await (await ask(i)).arrayBuffer()
    const times = []
    let failed = 0
    const pending = []
    const start = performance.now()
    for (let i = 0; i < RATE * SECONDS; i++) {
      const due = start + (i * 1000) / RATE
      const wait = due - performance.now()
      if (wait > 0) await new Promise((done) => setTimeout(done, wait))
      // Counted from when it was due: a server that is late is late for all behind it.
      pending.push(
        ask(i).then(async (answer) => {
          await answer.arrayBuffer()
          if (!answer.ok) failed++
          times.push(performance.now() - due)
        }),
      )
    }
    await Promise.all(pending)
    times.sort((a, b) => a - b)
    const at = (share) => times[Math.floor(times.length * share)].toFixed(1)
    console.log(
      `Node ${process.version}, ${cpus().length} cores, ${Math.round(totalmem() / 2 ** 30)} GiB; asked from the same machine`,
    )
    console.log(
      `${size}: analysed by the server ${((Date.now() - analysed) / 1000).toFixed(0)} s or less after it was saved`,
    )
    console.log(
      `${size}: a trace through the HTTP API, ${RATE} a second for ${SECONDS} s: ${at(0.5)} ms median, ${at(0.95)} ms at 95 %, ${at(0.99)} ms at 99 %, ${failed} failed`,
    )
    return 0
  } finally {
    await world.stop()
    rmSync(folder, { recursive: true, force: true })
  }
})
