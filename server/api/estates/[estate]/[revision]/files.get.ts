import { route } from '../../../../http/route'
import { revisionOf } from '../../../../http/revision'
import { readDocument, readFiles } from '../../../../estates/store'

/** The files it was brought in with; what was saved from a draft has its document alone. */
export default route('/api/estates/{estate}/{revision}/files', 'get', async (event) => {
  const { db, slug, id } = await revisionOf(event)
  const files = await readFiles(db, id)
  return files.length > 0 ? files : [{ name: `${slug}.json`, text: await readDocument(db, id) }]
})
