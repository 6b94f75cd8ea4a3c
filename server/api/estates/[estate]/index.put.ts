import { route } from '../../../http/route'
import { analyseSaved } from '../../../analysis/saved'
import { database } from '../../../database/client'
import { inDraft, saveOfDraft } from '../../../drafts/drafts'
import { createDraft, deleteDraft } from '../../../drafts/store'
import { body, params, refusal } from '../../../http/respond'
import { estateParams, renameBody } from '../../../../contract/requests'

/**
 * Renames an estate: its name stands in its document, so it is a revision like any other change.
 */
export default route('/api/estates/{estate}', 'put', async (event, { name: author }) => {
  const { estate: slug } = params(event, estateParams)
  const { name } = await body(event, renameBody)
  const db = database()
  const what = `rename the estate to ${name}`
  const draft = { name: what, author, note: '', kind: 'change' } as const
  const id = await createDraft(db, slug, null, draft)
  if (id === null) throw refusal(404, 'no-such-estate', `there is no estate "${slug}"`)
  try {
    const patch = [{ op: 'replace', path: '/name', value: name }]
    await inDraft(id, { want: 'change', what, author, seen: 0, patch })
    const saved = await saveOfDraft(id, { slug, author, note: what, reason: null })
    await analyseSaved(db, saved)
    return saved
  } finally {
    await deleteDraft(db, id)
  }
})
