import { route } from '../../../../../http/route'
import { inDraft } from '../../../../../drafts/drafts'
import { findRevision } from '../../../../../estates/store'
import { draftOf } from '../../../../../http/draft'

export default route('/api/estates/{estate}/drafts/{draft}/rebase', 'post', async (event) => {
  const { db, slug, draft } = await draftOf(event)
  const head = (await findRevision(db, slug, null))!
  const { version, warnings, conflicts } = await inDraft(draft.id, { want: 'rebase', ...head })
  return { version, warnings, conflicts }
})
