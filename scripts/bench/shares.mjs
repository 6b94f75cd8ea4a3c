// `npm run bench:shares [-- S|M|L|XL]`: a whole analysis by processes that share a queue in
// PostgreSQL, by one and by two of them, in the production build. XL takes about an hour and 20
// GiB.
import { execFile, execFileSync } from 'node:child_process'
import { cpus, totalmem } from 'node:os'
import { promisify } from 'node:util'
import pg from 'pg'
import { startWorld } from '../../test/machine/world.mjs'
import { command, root } from '../machine/run.mjs'
import { bundled } from './bundle.mjs'

/** Each process may take so much, in MiB; and no share takes longer, in seconds. */
const LIMITS = {
  SALT_TRAIL_SHARES_FROM_MEGABYTES: '0',
  SALT_TRAIL_ANALYSIS_MEGABYTES: '10500',
  SALT_TRAIL_ANALYSIS_SECONDS: '3600',
}

async function analysed({ address, cookie }, slug, processes) {
  const path = `${address}/api/estates/${slug}/1/analysis`
  const start = Date.now()
  const headers = { 'content-type': 'application/json', cookie }
  await fetch(path, { method: 'POST', headers, body: '{}' })
  for (let last = ''; ; await new Promise((done) => setTimeout(done, 500))) {
    const status = await (await fetch(path, { headers })).json()
    if (status.state === 'done')
      return { seconds: (Date.now() - start) / 1000, counts: status.counts }
    if (status.state !== 'running')
      throw new Error(`the analysis ${status.state}: ${status.message}`)
    const { about, done, of } = status.progress
    if (`${about} ${done}` !== last)
      process.stderr.write(
        `${processes}: ${about}, ${done} of ${of}, after ${Math.round((Date.now() - start) / 1000)} s\n`,
      )
    last = `${about} ${done}`
  }
}

/**
 * What two processes can win at all on this machine, where they share nothing but its cores and its
 * memory.
 */
async function ceiling() {
  const alone = await bundled('alone.ts')
  const analysis = async () =>
    Number(
      (
        await promisify(execFile)(process.execPath, ['--max-semi-space-size=64', alone], {
          cwd: root,
        })
      ).stdout,
    )
  const one = await analysis()
  const both = Math.max(...(await Promise.all([analysis(), analysis()])))
  return { one, both, times: (2 * one) / both }
}

await command(async () => {
  const [size = 'L', ...numbers] = process.argv.slice(2)
  const save = await bundled('save-generated.ts')
  const times = []
  console.log(
    `Node ${process.version}, ${cpus().length} cores, ${Math.round(totalmem() / 2 ** 30)} GiB\n\n| what | measured |\n|---|---|`,
  )
  for (const processes of numbers.length > 0 ? numbers.map(Number) : [1, 2]) {
    // A server of its own each time, whose number of processes is another.
    const world = await startWorld({
      env: { ...LIMITS, SALT_TRAIL_DEMO: 'no', SALT_TRAIL_ANALYSIS_PROCESSES: String(processes) },
    })
    try {
      const env = { ...process.env, DATABASE_URL: world.databaseUrl }
      const flags = ['--max-semi-space-size=64', '--max-old-space-size=16000']
      const { slug, megabytes, subnets } = JSON.parse(
        execFileSync(process.execPath, [...flags, save, size], {
          env,
          cwd: root,
          encoding: 'utf8',
        }),
      )
      const { seconds, counts } = await analysed(world, slug, processes)
      const client = new pg.Client({ connectionString: world.databaseUrl })
      await client.connect()
      const { rows } = await client.query(
        'select (select count(*) from exit_rows) as rows, (select count(*) from findings) as findings',
      )
      await client.end()
      times.push(seconds)
      const kept = `${Number(rows[0].rows).toLocaleString('en-GB')} rows and ${Number(rows[0].findings).toLocaleString('en-GB')} findings kept`
      console.log(
        `| ${size}, ${megabytes} MiB, ${subnets.toLocaleString('en-GB')} subnets: analysed by ${processes} process${processes === 1 ? '' : 'es'} | ${Math.round(seconds)} s, ${kept} |`,
      )
      if (!counts) throw new Error('nothing was counted')
    } finally {
      await world.stop()
    }
  }
  if (times.length === 2)
    console.log(`| ${size}: two processes against one | ${(times[0] / times[1]).toFixed(2)} × |`)
  const { one, both, times: most } = await ceiling()
  console.log(
    `| what this machine lets two processes win: M analysed by one alone, and by two at once that have nothing to do with each other | ${one} ms, ${both} ms: ${most.toFixed(2)} × |`,
  )
  return 0
})
