import { route } from '../../../../http/route'
import { comparison } from '../../../../comparison/comparisons'
import { query } from '../../../../http/respond'
import { earlierRevision, revisionOf } from '../../../../http/revision'
import { sinceQuery } from '../../../../../contract/revisions'

/** What differs from another revision, as objects and as ways. */
export default route('/api/estates/{estate}/{revision}/difference', 'get', async (event) => {
  const { since } = query(event, sinceQuery)
  const { db, slug, id, number } = await revisionOf(event)
  const other = await earlierRevision(db, slug, since)
  return { revision: number, since, ...(await comparison(other.id, id)) }
})
