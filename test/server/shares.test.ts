import { readdirSync, readFileSync } from 'node:fs'
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
      parents.set(pid, Number(readFileSync(`/proc/${name}/stat`, 'utf8').split(') ')[1]!.split(' ')[1]))
      if (readFileSync(`/proc/${name}/cmdline`, 'utf8').includes('analysis-process.mjs')) finding.push(pid)
    } catch {
      // It ended while it was looked at.
    }
  }
  const isOf = (pid: number): boolean => pid === server || (parents.has(pid) && isOf(parents.get(pid)!))
  return finding.filter(isOf)
}

const pause = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 20))

async function everything(revision: string, address: string): Promise<{ findings: Found[]; rows: object[] }> {
  const { findings } = await get<Page<Found>>(`${revision}/findings?count=1000`, address)
  const { rows } = await get<Page<object>>(`${revision}/exits?count=1000`, address)
  return { findings, rows }
}

test('processes that share a queue find what one thread finds', async () => {
  const alone = await create(12)
  expect((await ended(alone)).state).toBe('done')
  const whole = await everything(alone, process.env.SALT_TRAIL_TEST_ADDRESS!)
  await withServer(IN_SHARES, async (address, server) => {
    const revision = await create(12, address)
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
    // They end when there is nothing left to do.
    while (processesOf(server).length > 0) await pause()
  })
}, 120_000)

test('a process that is killed in the middle leaves its share to another', async () => {
  await withServer(IN_SHARES, async (address, server) => {
    await ended('/api/estates/halite-ferries/head', address)
    const revision = await create(30, address)
    while ((await get<Status>(`${revision}/analysis`, address)).progress?.about !== 'shares of it') await pause()
    while (processesOf(server).length === 0) await pause()
    for (let killed = 0; killed < 2; killed++) {
      await new Promise((resolve) => setTimeout(resolve, 700))
      for (const pid of processesOf(server).slice(0, 1)) process.kill(pid, 'SIGKILL')
    }
    expect(await ended(revision, address)).toMatchObject({ state: 'done' })
    expect((await get<Page<object>>(`${revision}/exits?count=1`, address)).total).toBe(300)
  })
}, 120_000)

test('processes that die whoever takes a share end it as a failure that says why, and it can be asked for again', async () => {
  await withServer({ ...IN_SHARES, SALT_TRAIL_ANALYSIS_MEGABYTES: '20' }, async (address) => {
    const revision = await create(30, address)
    const status = await ended(revision, address)
    expect(status).toMatchObject({ state: 'failed' })
    expect(status.message).toMatch(/^the analysis failed: the process that computed a share of it died \(.+\); it may take 20 MiB/)
    const again = await fetch(`${address}${revision}/analysis`, { method: 'POST', headers: json, body: '{}' })
    expect(again.status).toBe(200)
    expect((await ended(revision, address)).state).toBe('failed')
  })
}, 180_000)

test('stopped, processes let go of it; begun again, it comes to its end', async () => {
  await withServer(IN_SHARES, async (address, server) => {
    await ended('/api/estates/halite-ferries/head', address)
    const revision = await create(30, address)
    while ((await get<Status>(`${revision}/analysis`, address)).progress?.about !== 'shares of it') await pause()
    const stopped = await fetch(`${address}${revision}/analysis`, { method: 'DELETE' })
    expect(await stopped.json()).toMatchObject({ state: 'stopped', message: 'somebody stopped this analysis' })
    while (processesOf(server).length > 0) await pause()
    await fetch(`${address}${revision}/analysis`, { method: 'POST', headers: json, body: '{}' })
    expect((await ended(revision, address)).state).toBe('done')
  })
}, 120_000)
