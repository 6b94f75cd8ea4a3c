import { route } from '../../../../../http/route'
import { inDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'

export default route(
  '/api/estates/{estate}/drafts/{draft}/redo',
  'post',
  async (event, { name: author }) => {
    const { draft } = await draftOf(event)
    return inDraft(draft.id, { want: 'redo', author })
  },
)
