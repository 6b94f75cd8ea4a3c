import { route } from '../../../../../http/route'
import { deleteDraft } from '../../../../../drafts/store'
import { draftOf } from '../../../../../http/draft'

export default route('/api/estates/{estate}/drafts/{draft}', 'delete', async (event) => {
  const { db, draft } = await draftOf(event)
  await deleteDraft(db, draft.id)
  return { id: draft.id }
})
