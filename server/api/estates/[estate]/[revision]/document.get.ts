import { route } from '../../../../http/route'
import { writeYaml } from '@salt-trail/core'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { notationQuery } from '../../../../../contract/requests'
import { readDocument, readRevision } from '../../../../estates/store'

export default route('/api/estates/{estate}/{revision}/document', 'get', async (event) => {
  const { notation } = query(event, notationQuery)
  const { db, id, slug, number } = await revisionOf(event)
  setResponseHeader(
    event,
    'content-type',
    notation === 'json' ? 'application/json' : 'application/yaml',
  )
  setResponseHeader(
    event,
    'content-disposition',
    `attachment; filename="${slug}-${number}.${notation}"`,
  )
  return notation === 'json' ? readDocument(db, id) : writeYaml((await readRevision(db, id)).estate)
})
