import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import {
  analyse,
  analyseShare,
  compile,
  hopMemo,
  joinShares,
  readEstate,
  type Finding,
} from '@salt-trail/core'
import { openQueue, type AnalysisQueue, type TakenJob } from '../../server/analysis/queue'
import {
  beginShare,
  beginShares,
  dropShares,
  failShare,
  inTransaction,
  keepShare,
  readFound,
  readRows,
  stateOfShares,
} from '../../server/analysis/shares'
import { contentOf } from '../../server/estates/content'
import { createEstate, findRevision } from '../../server/estates/store'

const connectionString = process.env.DATABASE_URL!
const client = new pg.Client({ connectionString })
const db = drizzle(client, { casing: 'snake_case' })
let queue: AnalysisQueue

const text = `
format: salt-trail/1
name: Queue Test
networks: { n: { ranges: [10.0.0.0/8] } }
subnets:
  a: { network: n, ranges: [10.0.1.0/24], role: public }
  b: { network: n, ranges: [10.0.2.0/24] }
  c: { network: n, ranges: [10.0.3.0/24] }
interfaces: { a-1: { subnet: a, addresses: [10.0.1.10] }, b-1: { subnet: b, addresses: [10.0.2.10] } }
`
const estate = readEstate([{ name: 'queue.yaml', text }]).estate!
const ENGINE = 'of this test'

async function newAnalysis(): Promise<{ revisionId: number; engine: string }> {
  const { slug } = await createEstate(db, {
    content: contentOf(estate),
    files: [],
    author: 'M. Dune',
    origin: 'test',
  })
  return { revisionId: (await findRevision(db, slug, null))!.id, engine: ENGINE }
}

/** Everything in the queue, taken out. */
async function takeAll(): Promise<TakenJob[]> {
  const taken: TakenJob[] = []
  for (let job = await queue.take(); job !== null; job = await queue.take()) taken.push(job)
  for (const job of taken) await queue.finish(job)
  return taken
}

beforeAll(async () => {
  await client.connect()
  queue = await openQueue({ connectionString, keeps: true, seconds: 60 })
  await takeAll()
})
afterAll(async () => {
  await queue.close()
  await client.end()
})

test('what is put into the queue within a transaction that fails was never there', async () => {
  const job = { revisionId: 1, engine: ENGINE, share: 'join' } as const
  const failing = inTransaction(client, async () => {
    await queue.put(client, [job])
    throw new Error('on purpose')
  })
  await expect(failing).rejects.toThrow('on purpose')
  expect(await queue.take()).toBeNull()
  await inTransaction(client, () => queue.put(client, [job]))
  expect((await takeAll()).map(({ data }) => data)).toEqual([job])
})

test('a job is given to one at a time, and given out again where its process died, but not for ever', async () => {
  const data = { revisionId: 2, engine: ENGINE, share: { number: 0, of: 1 } }
  await inTransaction(client, () => queue.put(client, [data]))
  const other = await openQueue({ connectionString, keeps: false, seconds: 60 })
  try {
    for (const again of [true, true, false]) {
      const job = (await other.take())!
      expect(job.data).toEqual(data)
      expect(await queue.take()).toBeNull()
      expect(await queue.giveBack(job, 'it died')).toBe(again)
    }
    expect(await other.take()).toBeNull()
  } finally {
    await other.close()
  }
})

test('the shares of an analysis are begun once, and by whoever comes later joined', async () => {
  const analysis = await newAnalysis()
  expect(await stateOfShares(db, analysis)).toBeNull()
  await Promise.all(
    [1, 2, 3].map(async () => {
      const own = new pg.Client({ connectionString })
      await own.connect()
      await beginShares(own, queue, analysis, 4)
      await own.end()
    }),
  )
  expect(await stateOfShares(db, analysis)).toEqual({ done: 0, of: 4, failed: null })
  // Each once; what was put there together comes in any order.
  const taken = (await takeAll()).map(({ data }) => data.share as { number: number; of: number })
  expect(taken.sort((a, b) => a.number - b.number)).toEqual(
    [0, 1, 2, 3].map((number) => ({ number, of: 4 })),
  )
  // Another version of the analysis gives up what this one began.
  await beginShares(client, queue, { ...analysis, engine: 'another' }, 2)
  expect(await stateOfShares(db, analysis)).toBeNull()
  expect(await beginShare(db, analysis, 0)).toBe(false)
  await dropShares(db, analysis.revisionId)
  await takeAll()
})

test('the last share that is kept has all of them joined, in their order whatever the order they came in', async () => {
  const analysis = await newAnalysis()
  await beginShares(client, queue, analysis, 3)
  await takeAll()
  const model = compile(estate)
  for (const number of [2, 0, 1]) {
    expect(await beginShare(db, analysis, number)).toBe(true)
    await keepShare(
      client,
      queue,
      analysis,
      number,
      analyseShare(model, hopMemo(), { number, of: 3 }, () => false)!,
    )
    expect((await takeAll()).map(({ data }) => data.share)).toEqual(number === 1 ? ['join'] : [])
  }
  // A share that another process was given too is not begun again.
  expect(await beginShare(db, analysis, 1)).toBe(false)
  let whole: readonly Finding[] = []
  const rows: string[] = []
  analyse(model, {
    progress: () => false,
    exits: (some) => rows.push(...some.map(({ subnet }) => subnet)),
    findings: (found) => (whole = found),
  })
  const { shares, since } = await readFound(db, analysis)
  expect(since.getTime()).toBeLessThanOrEqual(Date.now())
  expect(JSON.parse(JSON.stringify(joinShares(model, shares).findings))).toEqual(
    JSON.parse(JSON.stringify(whole)),
  )
  const kept: string[] = []
  for await (const some of readRows(db, analysis)) kept.push(...some.map(({ subnet }) => subnet))
  expect(kept).toEqual(rows)
})

test('a share that failed says why until it is begun anew; one that was given up is not kept', async () => {
  const analysis = await newAnalysis()
  await beginShares(client, queue, analysis, 2)
  await takeAll()
  await failShare(db, analysis, 'out of memory')
  expect(await stateOfShares(db, analysis)).toEqual({ done: 0, of: 2, failed: 'out of memory' })
  await beginShares(client, queue, analysis, 2)
  expect(await stateOfShares(db, analysis)).toEqual({ done: 0, of: 2, failed: null })
  await takeAll()
  await dropShares(db, analysis.revisionId)
  await keepShare(
    client,
    queue,
    analysis,
    0,
    analyseShare(compile(estate), hopMemo(), { number: 0, of: 2 }, () => false)!,
  )
  expect(await stateOfShares(db, analysis)).toBeNull()
  expect(await queue.take()).toBeNull()
})
