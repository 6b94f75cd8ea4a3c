import { readdirSync, readFileSync } from 'node:fs'
import pg from 'pg'
import { create, ended, get, json, withServer, type Found, type Page, type Status } from './asking'

const IN_SHARES = { SALT_TRAIL_SHARES_FROM_MEGABYTES: '0', SALT_TRAIL_ANALYSIS_PROCESSES: '2' }

/** The processes that find shares, of a server and of nobody else. */
function processesOf(server: number): number[] {
  const parents = new Map<number, number>()
  const finding: number[] = []
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue
    try {
      const pid = Number(name)
      parents.set(
        pid,
        Number(readFileSync(`/proc/${name}/stat`, 'utf8').split(') ')[1]!.split(' ')[1]),
      )
      if (readFileSync(`/proc/${name}/cmdline`, 'utf8').includes('analysis-process.mjs'))
        finding.push(pid)
    } catch {
      // It ended while it was looked at.
    }
  }
  const isOf = (pid: number): boolean =>
    pid === server || (parents.has(pid) && isOf(parents.get(pid)!))
  return finding.filter(isOf)
}

/** Begins an analysis, and waits until its shares are looked at. */
async function begun(address: string, server: number, networks = 14): Promise<string> {
  const revision = await create(networks, address)
  while ((await get<Status>(`${revision}/analysis`, address)).progress?.about !== 'shares of it')
    await pause()
  while (processesOf(server).length === 0) await pause()
  return revision
}

const rowsOf = async (revision: string, address: string): Promise<number> =>
  (await get<Page<object>>(`${revision}/exits?count=1`, address)).total

const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 20))

async function everything(
  revision: string,
  address: string,
): Promise<{ findings: Found[]; rows: object[] }> {
  const { findings } = await get<Page<Found>>(`${revision}/findings?count=1000`, address)
  const { rows } = await get<Page<object>>(`${revision}/exits?count=1000`, address)
  return { findings, rows }
}

test('processes that share a queue find what one thread finds, and end', async () => {
  const alone = await create(8)
  expect((await ended(alone)).state).toBe('done')
  const whole = await everything(alone, process.env.SALT_TRAIL_TEST_ADDRESS!)
  await withServer(IN_SHARES, async (address, server) => {
    const revision = await create(8, address)
    let most = 0
    const seen = new Set<string>()
    for (let state = 'running'; state === 'running'; await pause()) {
      const status = await get<Status>(`${revision}/analysis`, address)
      if (status.progress) seen.add(status.progress.about)
      state = status.state
      most = Math.max(most, processesOf(server).length)
    }
    expect((await ended(revision, address)).state).toBe('done')
    expect(most).toBe(2)
    expect(seen).toContain('shares of it')
    expect(await everything(revision, address)).toEqual(whole)
    while (processesOf(server).length > 0) await pause()
  })
}, 120_000)

test('processes that are killed, stopped, or lose their database leave nothing half done', async () => {
  await withServer(IN_SHARES, async (address, server) => {
    await ended('/api/estates/halite-ferries/head', address)
    // What a killed one had is given to another.
    const killed = await begun(address, server)
    for (let times = 0; times < 2; times++) {
      await new Promise((resolve) => setTimeout(resolve, 500))
      for (const pid of processesOf(server).slice(0, 1)) process.kill(pid, 'SIGKILL')
    }
    expect(await ended(killed, address)).toMatchObject({ state: 'done' })
    expect(await rowsOf(killed, address)).toBe(140)

    // Stopped, they let go of it; begun again, it comes to its end.
    const stopped = await begun(address, server)
    const answer = await fetch(`${address}${stopped}/analysis`, { method: 'DELETE' })
    expect(await answer.json()).toMatchObject({
      state: 'stopped',
      message: 'somebody stopped this analysis',
    })
    while (processesOf(server).length > 0) await pause()
    await fetch(`${address}${stopped}/analysis`, { method: 'POST', headers: json, body: '{}' })
    expect((await ended(stopped, address)).state).toBe('done')

    // A database that drops every connection is waited for.
    const dropped = await begun(address, server)
    const client = new pg.Client({ connectionString: databaseOf(processesOf(server)[0]!) })
    await client.connect()
    for (let times = 0; times < 3; times++) {
      await client.query(
        'select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid() and datname = current_database()',
      )
      await new Promise((resolve) => setTimeout(resolve, 300))
    }
    await client.end()
    expect(await ended(dropped, address)).toMatchObject({ state: 'done' })
    expect(await rowsOf(dropped, address)).toBe(140)
  })
}, 180_000)

test('processes that die whoever takes a share end it as a failure that says why, and it can be asked for again', async () => {
  await withServer(IN_SHARES, async (address, server) => {
    await ended('/api/estates/halite-ferries/head', address)
    const revision = await begun(address, server, 50)
    let status = await get<Status>(`${revision}/analysis`, address)
    for (
      ;
      status.state === 'running';
      status = await get<Status>(`${revision}/analysis`, address)
    ) {
      // Long enough to take a share, and too short to find one.
      await new Promise((resolve) => setTimeout(resolve, 1_500))
      for (const pid of processesOf(server)) process.kill(pid, 'SIGKILL')
    }
    expect(status).toMatchObject({ state: 'failed' })
    expect(status.message).toMatch(
      /^the analysis failed: the process that computed a share of it died \(SIGKILL\); it may take 6144 MiB/,
    )
    const again = await fetch(`${address}${revision}/analysis`, {
      method: 'POST',
      headers: json,
      body: '{}',
    })
    expect(await again.json()).toMatchObject({ state: 'running' })
  })
}, 120_000)

/** The database a process was started with. */
function databaseOf(pid: number): string {
  const words = readFileSync(`/proc/${pid}/environ`, 'utf8').split('\0')
  return words.find((word) => word.startsWith('DATABASE_URL='))!.slice('DATABASE_URL='.length)
}
