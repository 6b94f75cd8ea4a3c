import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { readEstate, type Estate, type SourceFile } from '@salt-trail/core'
import { parse } from 'yaml'
import { z } from 'zod'
import type { Database } from '../database/client'
import { loadedDemos } from '../database/schema'
import { estateFilesIn, folderOf } from '../files'
import { log } from '../log'
import { draftDemo } from '../drafts/demo'
import { contentOf } from './content'
import { addRevision, createEstate, listRevisions, type NewRevision } from './store'

export const DEMO = 'halite-ferries'

const DAY = 24 * 60 * 60 * 1000
const history = z
  .array(
    z.strictObject({
      author: z.string(),
      daysAgo: z.int().min(0),
      note: z.string(),
      before: z.array(
        z.strictObject({ file: z.string(), now: z.string().min(1), then: z.string() }),
      ),
    }),
  )
  .min(1)

/** The demo's revisions, the oldest first: its newest files, with what stood in them before. */
export function demoRevisions(now: number): NewRevision[] {
  const folder = folderOf('demo')
  const told = history.parse(parse(readFileSync(join(folder, 'earlier/history.yaml'), 'utf8')))
  let files = estateFilesIn(folder)
  const revisions: NewRevision[] = []
  for (const { author, daysAgo, note, before } of told.reverse()) {
    revisions.unshift({
      content: contentOf(estateOf(files)),
      files,
      author,
      origin: 'demo',
      note,
      createdAt: new Date(now - daysAgo * DAY),
    })
    for (const edit of before)
      files = files.map((file) => (file.name === edit.file ? undo(file, edit) : file))
  }
  return revisions
}

function undo(file: SourceFile, { now, then }: { now: string; then: string }): SourceFile {
  if (!file.text.includes(now))
    throw new Error(`${file.name} of the demo does not hold what its history says: ${now}`)
  return { ...file, text: file.text.replace(now, () => then) }
}

function estateOf(files: readonly SourceFile[]): Estate {
  const { estate, problems } = readEstate(files)
  if (!estate)
    throw new Error(
      `the demo is not valid: ${problems[0]?.file}:${problems[0]?.line}: ${problems[0]?.message}`,
    )
  return estate
}

/** Loads the demo into a database that never had it. One that was deleted does not come back. */
export async function loadDemoOnce(db: Database): Promise<void> {
  await db.transaction(async (tx) => {
    const claimed = await tx
      .insert(loadedDemos)
      .values({ name: DEMO })
      .onConflictDoNothing()
      .returning()
    if (claimed.length === 0) return
    const [first, ...more] = demoRevisions(Date.now())
    const inside = tx as unknown as Database
    const { slug } = await createEstate(inside, first!)
    for (const [at, next] of more.entries()) await addRevision(inside, slug, at + 1, next)
    await draftDemo(inside, slug)
    log.info({ demo: DEMO }, 'the demo was loaded')
  })
}

/** The numbers of the demo's revisions, the newest first; none where it was deleted. */
export const demoNumbers = async (db: Database): Promise<number[]> =>
  ((await listRevisions(db, DEMO)) ?? []).map(({ number }) => number)
