import { and, count, desc, eq, gte, ilike, lt, or, sql, type SQL } from 'drizzle-orm'
import type { Database } from '../database/client'
import { record } from '../database/access-schema'

export interface NewEntry {
  readonly accountId: number | null
  readonly who: string
  readonly by: string
  readonly what: string
  readonly estate: string | null
  readonly request: string
}

/** Notes what somebody is about to change; the id of the entry. */
export async function beginEntry(db: Database, entry: NewEntry): Promise<number> {
  const [row] = await db.insert(record).values(entry).returning({ id: record.id })
  return row!.id
}

/** How it ended, and what is known only now. */
export const endEntry = (
  db: Database,
  id: number,
  ended: { status: number; about?: string; estate?: string; who?: string; accountId?: number },
): Promise<unknown> => db.update(record).set(ended).where(eq(record.id, id))

/** Takes an entry back: a stranger changed nothing, and could fill the record with that. */
export const dropEntry = (db: Database, id: number): Promise<unknown> =>
  db.delete(record).where(eq(record.id, id))

export interface Wanted {
  readonly text: string
  readonly estate?: string | undefined
  /** Days, the last one included. */
  readonly since?: string | undefined
  readonly until?: string | undefined
}

/** What stands for anything in a pattern of the database stands for itself. */
const pattern = (text: string): string => `%${text.replaceAll(/[\\%_]/g, '\\$&')}%`

function chosen({ text, estate, since, until }: Wanted): SQL | undefined {
  const columns = [record.who, record.by, record.what, record.about, record.estate, record.request]
  return and(
    text === '' ? undefined : or(...columns.map((one) => ilike(one, pattern(text)))),
    estate === undefined ? undefined : eq(record.estate, estate),
    since === undefined ? undefined : gte(record.at, sql`${since}::date`),
    until === undefined ? undefined : lt(record.at, sql`${until}::date + 1`),
  )
}

/** Some of the record, the newest first, and how much of it there is. */
export async function readRecord(
  db: Database,
  wanted: Wanted & { readonly from: number; readonly count: number },
) {
  const where = chosen(wanted)
  const [[of], entries] = await Promise.all([
    db.select({ total: count() }).from(record).where(where),
    db
      .select()
      .from(record)
      .where(where)
      .orderBy(desc(record.id))
      .limit(wanted.count)
      .offset(wanted.from),
  ])
  return { total: of!.total, entries: entries.map(({ accountId: _, ...entry }) => entry) }
}
