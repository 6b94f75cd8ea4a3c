import { findingsBeyond } from '../../../../analysis/history'
import { analysedOrRefused, analysedRevision } from '../../../../contract/analysed'
import { query } from '../../../../contract/respond'
import { earlierRevision, revisionOf } from '../../../../contract/revision'
import { sinceQuery } from '../../../../contract/view-schemas'

/** Findings that came and went since another revision; waits for the analysis of both. */
export default defineEventHandler(async (event) => {
  const { since } = query(event, sinceQuery)
  const { slug } = await revisionOf(event)
  const { db, id, number } = await analysedRevision(event)
  const other = await earlierRevision(db, slug, since)
  await analysedOrRefused(db, other.id)
  const [come, gone] = await Promise.all([findingsBeyond(db, id, other.id), findingsBeyond(db, other.id, id)])
  return { revision: number, since, come: come.map((text) => JSON.parse(text) as object), gone: gone.map((text) => JSON.parse(text) as object) }
})
