import { closeAttempts } from '../access/attempts'
import { closeWorkers } from '../analysis/runs'
import { closeAnswers } from '../answers/ask'
import { closeComparisons } from '../comparison/comparisons'
import { closeDatabase } from '../database/client'
import { databaseReady } from '../database/ready'
import { closeDrafts } from '../drafts/drafts'
import { closeProposals } from '../proposals/proposals'
import { closeReaders } from '../reading/reading'

/** Prepares the database while the server starts; requests wait for it. */
export default defineNitroPlugin((nitro) => {
  databaseReady().catch(() => {
    // Logged already; the next request tries again.
  })
  nitro.hooks.hook('close', async () => {
    await Promise.all([
      closeWorkers(),
      closeAnswers(),
      closeComparisons(),
      closeDrafts(),
      closeProposals(),
      closeReaders(),
    ])
    closeAttempts()
    await closeDatabase()
  })
})
