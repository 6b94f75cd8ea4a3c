import { route } from '../../../../http/route'
import { findingsBeyond } from '../../../../analysis/history'
import { analysedOrRefused, analysedRevision } from '../../../../http/analysed'
import { query } from '../../../../http/respond'
import { earlierRevision, revisionOf } from '../../../../http/revision'
import { sinceQuery } from '../../../../../contract/revisions'

/** Findings that came and went since another revision; waits for the analysis of both. */
export default route('/api/estates/{estate}/{revision}/findings-since', 'get', async (event) => {
  const { since } = query(event, sinceQuery)
  const { slug } = await revisionOf(event)
  const { db, id, number } = await analysedRevision(event)
  const other = await earlierRevision(db, slug, since)
  await analysedOrRefused(db, other.id)
  const [come, gone] = await Promise.all([
    findingsBeyond(db, id, other.id),
    findingsBeyond(db, other.id, id),
  ])
  return {
    revision: number,
    since,
    come: come.map((text) => JSON.parse(text) as object),
    gone: gone.map((text) => JSON.parse(text) as object),
  }
})
