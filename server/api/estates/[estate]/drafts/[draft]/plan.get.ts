import { route } from '../../../../../http/route'
import { planOfDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'
import { whileAsked } from '../../../../../http/while-asked'

export default route('/api/estates/{estate}/drafts/{draft}/plan', 'get', async (event) => {
  const { draft } = await draftOf(event)
  return planOfDraft(draft.id, whileAsked(event))
})
