import { route } from '../../../../../http/route'
import { describeDraft } from '../../../../../drafts/store'
import { draftOf } from '../../../../../http/draft'
import { body } from '../../../../../http/respond'
import { draftWordsBody } from '../../../../../../contract/drafts'

export default route('/api/estates/{estate}/drafts/{draft}', 'put', async (event) => {
  const words = await body(event, draftWordsBody)
  const { db, draft } = await draftOf(event)
  await describeDraft(db, draft.id, words)
  return { id: draft.id }
})
