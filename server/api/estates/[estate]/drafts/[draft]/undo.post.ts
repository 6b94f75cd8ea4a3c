import { inDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'
import { body } from '../../../../../http/respond'
import { saving } from '../../../../../http/saving'
import { undoBody } from '../../../../../../contract/drafts'

export default defineEventHandler(async (event) => {
  const { author, entry = null } = await body(event, undoBody)
  const { draft } = await draftOf(event)
  return saving(() => inDraft(draft.id, { want: 'undo', author, entry }))
})
