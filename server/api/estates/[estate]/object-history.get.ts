import { route } from '../../../http/route'
import { isMapSection, isWholeSection, splitRef } from '@salt-trail/core'
import { objectHistory } from '../../../comparison/comparisons'
import { database } from '../../../database/client'
import { newestRevisions } from '../../../estates/store'
import { params, query, refusal } from '../../../http/respond'
import { objectQuery } from '../../../../contract/objects'
import { estateParams } from '../../../../contract/requests'

/** So many of the newest revisions are read for the history of an object. */
const MOST_REVISIONS = 12

/** In which of the newest revisions an object came, changed or went. */
export default route('/api/estates/{estate}/object-history', 'get', async (event) => {
  const { estate } = params(event, estateParams)
  const { ref } = query(event, objectQuery)
  const [section, object] = splitRef(ref)
  if (!isMapSection(section) && !isWholeSection(section))
    throw refusal(404, 'no-such-object', `"${section}" is no section of an estate`)
  const revisions = await newestRevisions(database(), estate, MOST_REVISIONS)
  if (revisions.length === 0) throw refusal(404, 'no-such-estate', `there is no estate "${estate}"`)
  const found = await objectHistory(
    section,
    object,
    revisions.map(({ id }) => id),
  )
  return {
    revisions: revisions.length,
    changes: found.flatMap((change, at) =>
      change === null ? [] : [{ number: revisions[at]!.number, ...change }],
    ),
  }
})
