import pg from 'pg'
import {
  base,
  create,
  ended,
  get,
  json,
  withServer,
  type Status,
  type Page,
  type Found,
} from './asking'

test('what is saved is analysed at once, and tells how far it is and what it found', async () => {
  const revision = await create(2)
  expect((await get<Status>(`${revision}/analysis`)).state).toMatch(/running|done/)
  const { state, counts } = await ended(revision)
  expect(state).toBe('done')
  const { total } = await get<Page<Found>>(`${revision}/findings?count=1`)
  const sum = (of: Record<string, number>): number => Object.values(of).reduce((a, b) => a + b, 0)
  expect(total).toBeGreaterThan(20)
  expect([sum(counts!.findings), sum(counts!.families)]).toEqual([total, total])
})

test('findings and rows are served by parts that together are all', async () => {
  const revision = await create(2)
  const all = await get<Page<Found>>(`${revision}/findings`)
  const pages = await Promise.all(
    Array.from({ length: Math.ceil(all.total / 7) }, (_, page) =>
      get<Page<Found>>(`${revision}/findings?from=${page * 7}&count=7`),
    ),
  )
  expect(pages.flatMap((page) => page.findings)).toEqual(all.findings)
  const rows = await get<Page<{ subnet: string }>>(`${revision}/exits?from=3&count=5`)
  expect([rows.total, rows.rows.length]).toEqual([20, 5])
})

test('findings are chosen by family, gravity and words', async () => {
  const revision = await create(2)
  const { findings } = await get<Page<Found>>(`${revision}/findings`)
  const grave = await get<Page<Found>>(`${revision}/findings?family=hole&severity=high`)
  expect(grave.findings).toEqual(
    findings.filter(
      (one) => one.code.startsWith('hole-') && ['critical', 'high'].includes(one.severity),
    ),
  )
  const word = await get<Page<Found>>(`${revision}/findings?text=IPv6`)
  expect(word.total).toBeGreaterThan(0)
  for (const one of word.findings)
    expect(`${one.code} ${one.sentence}`.toLowerCase()).toContain('ipv6')
  // What stands for anything in the database's own patterns stands for itself here.
  expect((await get<Page<Found>>(`${revision}/findings?text=%25`)).total).toBe(0)
  expect((await fetch(`${base}${revision}/findings?severity=dire`)).status).toBe(400)
})

test('findings are grouped, the gravest of each group first, and belong to networks', async () => {
  const revision = await create(3)
  type Grouped = Page<Found & { network: string | null }> & {
    groups: { key: string | null; total: number }[]
  }
  const byNetwork = await get<Grouped>(`${revision}/findings?by=network`)
  expect(byNetwork.groups.reduce((sum, { total }) => sum + total, 0)).toBe(byNetwork.total)
  expect([...new Set(byNetwork.findings.map((one) => one.network))]).toEqual(
    byNetwork.groups.map(({ key }) => key),
  )
  const [{ key, total }] = byNetwork.groups as [{ key: string; total: number }]
  const own = await get<Grouped>(`${revision}/findings?network=${key}`)
  expect([own.total, own.findings.every((one) => one.network === key)]).toEqual([total, true])
  const bySeverity = await get<Grouped>(`${revision}/findings?by=severity`)
  const order = ['critical', 'high', 'medium', 'low', 'note']
  expect(bySeverity.groups.map(({ key }) => key)).toEqual(
    order.filter((one) => bySeverity.findings.some(({ severity }) => severity === one)),
  )
  const byFamily = await get<Grouped>(`${revision}/findings?by=family&count=500`)
  expect(byFamily.groups.map(({ key }) => key)).toEqual(['leak', 'hole', 'weak'])
})

test('a finding that is accepted stays visible with its reason, and no longer counts', async () => {
  const revision = await create(2)
  const before = await ended(revision)
  const { findings } = await get<Page<Found & { accepted: unknown }>>(
    `${revision}/findings?count=1`,
  )
  const { fingerprint, severity } = findings[0]!
  const path = `${base}${revision.replace(/head$/, '')}acceptances/${fingerprint}`
  const accept = (body: object) =>
    fetch(path, { method: 'PUT', headers: json, body: JSON.stringify(body) })
  const said = { reason: 'the harbour is closed in winter', until: '2199-12-31' }
  expect((await accept({ ...said, reason: ' ' })).status).toBe(400)
  expect((await accept({ ...said, until: 'soon' })).status).toBe(400)
  expect((await accept(said)).status).toBe(200)
  expect((await get<Page<Found>>(`${revision}/findings?count=1`)).findings[0]).toMatchObject({
    fingerprint,
    accepted: said,
  })
  const after = await ended(revision)
  expect(after.counts!.findings[severity]).toBe(before.counts!.findings[severity]! - 1)
  expect(after.counts).toMatchObject({ accepted: 1 })
  // Once its last day is over it counts again.
  await accept({ ...said, until: '2020-01-01' })
  expect((await ended(revision)).counts).toEqual(before.counts)
  await accept(said)
  expect((await fetch(path, { method: 'DELETE' })).status).toBe(200)
  expect((await fetch(path, { method: 'DELETE' })).status).toBe(404)
  expect((await ended(revision)).counts).toEqual(before.counts)
})

interface ListedCause {
  readonly fingerprint: string
  readonly findings: number
  readonly matching: number
  readonly accepted: unknown
}
interface Causes {
  readonly total: number
  readonly findings: number
  readonly rootCauses: ListedCause[]
}

test('root causes have every finding once, and are chosen by what their findings are', async () => {
  const revision = await create(2)
  const all = await get<Causes>(`${revision}/root-causes`)
  const { total } = await get<Page<Found>>(`${revision}/findings?count=1`)
  expect(all.findings).toBe(total)
  expect(all.rootCauses.reduce((sum, { findings }) => sum + findings, 0)).toBe(total)
  const several = all.rootCauses.find(({ findings }) => findings > 2)!
  const own = await get<Page<Found & { rootCause: string }>>(
    `${revision}/findings?rootCause=${several.fingerprint}`,
  )
  expect(own.total).toBe(several.findings)
  expect(own.findings.every((one) => one.rootCause === several.fingerprint)).toBe(true)
  const leaks = await get<Causes>(`${revision}/root-causes?family=leak`)
  const listed = await get<Page<Found>>(`${revision}/findings?family=leak&count=500`)
  expect(leaks.findings).toBe(listed.total)
  expect(leaks.rootCauses.reduce((sum, { matching }) => sum + matching, 0)).toBe(listed.total)
  expect((await ended(revision)).counts).toMatchObject({ rootCauses: all.total })
})

test('a root cause that is accepted is so with all of its findings', async () => {
  const revision = await create(2)
  const before = await ended(revision)
  const { rootCauses } = await get<Causes>(`${revision}/root-causes`)
  const several = rootCauses.find(({ findings }) => findings > 2)!
  const path = `${base}${revision.replace(/head$/, '')}acceptances/${several.fingerprint}`
  const said = { reason: 'until the next dredging', until: null }
  const put = { method: 'PUT', headers: json, body: JSON.stringify(said) }
  expect((await fetch(path, put)).status).toBe(200)
  const after = await get<Causes>(`${revision}/root-causes`)
  expect(after.rootCauses.find((one) => one.fingerprint === several.fingerprint)).toMatchObject({
    accepted: { ...said, fingerprint: several.fingerprint },
  })
  const own = await get<Page<Found & { accepted: unknown }>>(
    `${revision}/findings?rootCause=${several.fingerprint}`,
  )
  for (const { accepted } of own.findings)
    expect(accepted).toEqual({ ...said, author: 'M. Dune', fingerprint: several.fingerprint })
  expect((await ended(revision)).counts).toMatchObject({
    accepted: several.findings,
    rootCauses: before.counts!.rootCauses - 1,
  })
})

test('an analysis that is there is done, also while somebody asks for its findings', async () => {
  const revision = await create(2)
  await ended(revision)
  const states = await Promise.all(
    Array.from({ length: 8 }, async () => {
      const asked = fetch(`${base}${revision}/root-causes`)
      const { state } = await get<Status>(`${revision}/analysis`)
      await asked
      return state
    }),
  )
  expect(new Set(states)).toEqual(new Set(['done']))
})

test('who asks while it runs shares the run; stopped, all are told, and it can be begun again', async () => {
  const revision = await create(40)
  const waiting = Promise.all([1, 2, 3].map(async () => fetch(`${base}${revision}/findings`)))
  await new Promise((resolve) => setTimeout(resolve, 300))
  const stopped = (await (
    await fetch(`${base}${revision}/analysis`, { method: 'DELETE' })
  ).json()) as Status
  expect(stopped).toMatchObject({ state: 'stopped', message: 'somebody stopped this analysis' })
  for (const answer of await waiting) {
    expect(answer.status).toBe(503)
    expect(await answer.json()).toMatchObject({ data: { code: 'analysis-stopped' } })
  }
  // Nothing of it was kept, and whoever looks does not begin it anew.
  expect(await get<Status>(`${revision}/analysis`)).toMatchObject({ state: 'stopped' })
  const again = await fetch(`${base}${revision}/analysis`, {
    method: 'POST',
    headers: json,
    body: '{}',
  })
  expect(await again.json()).toMatchObject({ state: 'running' })
  expect((await ended(revision)).state).toBe('done')
}, 90_000)

test('a database that drops every connection in the middle of an analysis does not end it, nor the server', async () => {
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL })
  await client.connect()
  try {
    const revision = await create(10)
    while ((await get<Status>(`${revision}/analysis`)).progress?.about !== 'ways out')
      await new Promise((resolve) => setTimeout(resolve, 10))
    await client.query(
      'select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid() and datname = current_database()',
    )
    // Whoever asks at that very moment is refused.
    await fetch(`${base}${revision}/analysis`)
    expect(await ended(revision)).toMatchObject({ state: 'done' })
    expect((await get<Page<Found>>(`${revision}/exits?count=1`)).total).toBe(100)
  } finally {
    await client.end()
  }
})

test('a server with little time for an analysis stops it, says so, and stays up', async () => {
  await withServer({ SALT_TRAIL_ANALYSIS_SECONDS: '0.001' }, async (address) => {
    const status = await ended('/api/estates/halite-ferries/head', address)
    expect(status).toMatchObject({
      state: 'stopped',
      message: 'the analysis was stopped after 0.001 seconds',
    })
    expect((await fetch(`${address}/api/estates/halite-ferries/head/outline`)).status).toBe(200)
  })
}, 60_000)

test('a worker that dies in the middle, here for want of memory, is told as a failure, and the server stays up', async () => {
  await withServer({ SALT_TRAIL_ANALYSIS_MEGABYTES: '24' }, async (address) => {
    const revision = await create(30, address)
    const status = await ended(revision, address)
    expect(status.state).toBe('failed')
    expect(status.message).toMatch(/^the analysis failed: /)
    expect((await fetch(`${address}/api/estates/halite-ferries/head/outline`)).status).toBe(200)
    const again = await fetch(`${address}${revision}/analysis`, {
      method: 'POST',
      headers: json,
      body: '{}',
    })
    expect(again.status).toBe(200)
    expect((await ended(revision, address)).state).toBe('failed')
  })
}, 60_000)

test('a small estate is analysed while a long analysis is under way', async () => {
  const long = await create(60)
  const small = await create(1)
  expect((await ended(small)).state).toBe('done')
  expect((await get<Status>(`${long}/analysis`)).state).toBe('running')
  await fetch(`${base}${long}/analysis`, { method: 'DELETE' })
})
