import { route } from '../../../../../http/route'
import { inDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'
import { body } from '../../../../../http/respond'
import { undoBody } from '../../../../../../contract/drafts'

export default route(
  '/api/estates/{estate}/drafts/{draft}/undo',
  'post',
  async (event, { name: author }) => {
    const { entry = null } = await body(event, undoBody)
    const { draft } = await draftOf(event)
    return inDraft(draft.id, { want: 'undo', author, entry })
  },
)
