import { route } from '../../../../../http/route'
import { inDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'
import { body } from '../../../../../http/respond'
import { draftChangeBody } from '../../../../../../contract/drafts'

export default route(
  '/api/estates/{estate}/drafts/{draft}/changes',
  'post',
  async (event, { name: author }) => {
    const change = await body(event, draftChangeBody)
    const { draft } = await draftOf(event)
    return inDraft(draft.id, { want: 'change', ...change, author })
  },
)
