import { deleteDraft } from '../../../../../drafts/store'
import { draftOf } from '../../../../../http/draft'

export default defineEventHandler(async (event) => {
  const { db, draft } = await draftOf(event)
  await deleteDraft(db, draft.id)
  return { id: draft.id }
})
