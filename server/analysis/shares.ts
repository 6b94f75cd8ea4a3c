import { and, asc, eq, ne, sql } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import type pg from 'pg'
import type { AnalysisShare, ExitRow, FoundShare } from '@salt-trail/core'
import type { Database } from '../database/client'
import { analysisShares } from '../database/schema'
import type { AnalysisQueue } from './queue'

/** Which analysis the shares are of. */
export interface SharedAnalysis {
  readonly revisionId: number
  readonly engine: string
}

export interface SharesState {
  readonly done: number
  readonly of: number
  /** Why one of them failed. */
  readonly failed: string | null
}

const ofAnalysis = ({ revisionId, engine }: SharedAnalysis) =>
  and(eq(analysisShares.revisionId, revisionId), eq(analysisShares.engine, engine))

/** A transaction of which the queue can be part too. */
export async function inTransaction<T>(
  client: pg.ClientBase,
  work: (tx: Database, client: pg.ClientBase) => Promise<T>,
): Promise<T> {
  await client.query('begin')
  try {
    const result = await work(drizzle(client as pg.Client, { casing: 'snake_case' }), client)
    await client.query('commit')
    return result
  } catch (error) {
    await client.query('rollback').catch(() => undefined)
    throw error
  }
}

/** Locks the shares of a revision until this transaction ends. */
const lockShares = (tx: Database, revisionId: number) =>
  tx.execute(sql`select pg_advisory_xact_lock(7251002, ${revisionId}::bigint::int)`)

/**
 * Puts the shares of an analysis into the queue, unless they are under way; another version's are
 * given up.
 */
export async function beginShares(
  client: pg.ClientBase,
  queue: AnalysisQueue,
  analysis: SharedAnalysis,
  of: number,
): Promise<void> {
  const { revisionId, engine } = analysis
  await inTransaction(client, async (tx) => {
    await lockShares(tx, revisionId)
    const under = await tx
      .select({ state: analysisShares.state })
      .from(analysisShares)
      .where(ofAnalysis(analysis))
    if (under.length > 0 && under.every(({ state }) => state !== 'failed')) return
    await dropShares(tx, revisionId)
    const numbers = Array.from({ length: of }, (_, number) => number)
    await tx
      .insert(analysisShares)
      .values(numbers.map((number) => ({ revisionId, engine, number, of })))
    await queue.put(
      client,
      numbers.map((number) => ({ revisionId, engine, share: { number, of } })),
    )
  })
}

/** Abandons an analysis: what processes find of it from now on is discarded. */
export async function dropShares(db: Pick<Database, 'delete'>, revisionId: number): Promise<void> {
  await db.delete(analysisShares).where(eq(analysisShares.revisionId, revisionId))
}

/** How far an analysis is; null where it is not, or no longer, under way. */
export async function stateOfShares(
  db: Database,
  analysis: SharedAnalysis,
): Promise<SharesState | null> {
  const { state, message } = analysisShares
  const rows = await db.select({ state, message }).from(analysisShares).where(ofAnalysis(analysis))
  if (rows.length === 0) return null
  return {
    done: rows.filter((row) => row.state === 'done').length,
    of: rows.length,
    failed: rows.find((row) => row.state === 'failed')?.message ?? null,
  }
}

/** Whether a share is still wanted; marks it as begun. */
export async function beginShare(
  db: Database,
  analysis: SharedAnalysis,
  number: number,
): Promise<boolean> {
  const begun = await db
    .update(analysisShares)
    .set({ state: 'running', startedAt: sql`now()` })
    .where(
      and(
        ofAnalysis(analysis),
        eq(analysisShares.number, number),
        ne(analysisShares.state, 'done'),
      ),
    )
    .returning({ number: analysisShares.number })
  return begun.length > 0
}

/** Keeps what was found in a share; the last one to be kept has all of them joined. */
export async function keepShare(
  client: pg.ClientBase,
  queue: AnalysisQueue,
  analysis: SharedAnalysis,
  number: number,
  { rows, ...found }: AnalysisShare,
): Promise<void> {
  const texts = { rows: JSON.stringify(rows), found: JSON.stringify(found) }
  await inTransaction(client, async (tx) => {
    await lockShares(tx, analysis.revisionId)
    const kept = await tx
      .update(analysisShares)
      .set({ state: 'done', ...texts })
      .where(and(ofAnalysis(analysis), eq(analysisShares.number, number)))
      .returning({ number: analysisShares.number })
    const state = await stateOfShares(tx, analysis)
    if (kept.length > 0 && state?.done === state?.of)
      await queue.put(client, [{ ...analysis, share: 'join' }])
  })
}

export async function failShare(
  db: Database,
  analysis: SharedAnalysis,
  message: string,
): Promise<void> {
  await db
    .update(analysisShares)
    .set({ state: 'failed', message })
    .where(and(ofAnalysis(analysis), ne(analysisShares.state, 'failed')))
}

/** What the checks found in all shares, in their order, and when the first of them was begun. */
export async function readFound(
  db: Database,
  analysis: SharedAnalysis,
): Promise<{ shares: FoundShare[]; since: Date }> {
  const shares: FoundShare[] = []
  let since = new Date()
  for (const { number, startedAt } of await sharesOf(db, analysis)) {
    const [row] = await db
      .select({ found: analysisShares.found })
      .from(analysisShares)
      .where(and(ofAnalysis(analysis), eq(analysisShares.number, number)))
    shares.push(JSON.parse(row!.found!) as FoundShare)
    if (startedAt && startedAt < since) since = startedAt
  }
  return { shares, since }
}

/** The rows of all shares, share by share: together they are too large to be held at once. */
export async function* readRows(db: Database, analysis: SharedAnalysis): AsyncGenerator<ExitRow[]> {
  for (const { number } of await sharesOf(db, analysis)) {
    const [row] = await db
      .select({ rows: analysisShares.rows })
      .from(analysisShares)
      .where(and(ofAnalysis(analysis), eq(analysisShares.number, number)))
    yield JSON.parse(row!.rows!) as ExitRow[]
  }
}

const sharesOf = (db: Database, analysis: SharedAnalysis) =>
  db
    .select({ number: analysisShares.number, startedAt: analysisShares.startedAt })
    .from(analysisShares)
    .where(ofAnalysis(analysis))
    .orderBy(asc(analysisShares.number))
