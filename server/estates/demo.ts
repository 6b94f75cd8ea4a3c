import { readEstate } from '@salt-trail/core'
import type { Database } from '../database/client'
import { loadedDemos } from '../database/schema'
import { estateFilesIn, folderOf } from '../files'
import { log } from '../log'
import { createEstate } from './store'

export const DEMO = 'halite-ferries'

/** Loads the demo into a database that never had it. One that was deleted does not come back. */
export async function loadDemoOnce(db: Database): Promise<void> {
  await db.transaction(async (tx) => {
    const claimed = await tx.insert(loadedDemos).values({ name: DEMO }).onConflictDoNothing().returning()
    if (claimed.length === 0) return
    const files = estateFilesIn(folderOf('demo'))
    const { estate, problems } = readEstate(files)
    if (!estate) throw new Error(`the demo is not valid: ${problems[0]?.file}:${problems[0]?.line}: ${problems[0]?.message}`)
    await createEstate(tx as unknown as Database, {
      estate,
      files,
      author: 'Salt Trail',
      origin: 'demo',
      note: 'Halite Ferries, an island ferry operator that does not exist',
    })
    log.info({ demo: DEMO }, 'the demo was loaded')
  })
}
