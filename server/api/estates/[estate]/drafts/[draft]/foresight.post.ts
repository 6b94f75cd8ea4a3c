import { route } from '../../../../../http/route'
import { foreseen } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'
import { body } from '../../../../../http/respond'
import { whileAsked } from '../../../../../http/while-asked'
import { foresightBody } from '../../../../../../contract/drafts'

/** What a draft brings about; a browser finds it by itself where the estate is not too large. */
export default route('/api/estates/{estate}/drafts/{draft}/foresight', 'post', async (event) => {
  const wanted = await body(event, foresightBody)
  const { draft } = await draftOf(event)
  return foreseen(draft.id, wanted, whileAsked(event))
})
