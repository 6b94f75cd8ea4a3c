import { inDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'
import { body } from '../../../../../http/respond'
import { authorBody } from '../../../../../../contract/drafts'

export default defineEventHandler(async (event) => {
  const { author } = await body(event, authorBody)
  const { draft } = await draftOf(event)
  return inDraft(draft.id, { want: 'redo', author })
})
