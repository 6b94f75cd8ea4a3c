import { planOfDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'
import { whileAsked } from '../../../../../http/while-asked'

export default defineEventHandler(async (event) => {
  const { draft } = await draftOf(event)
  return planOfDraft(draft.id, whileAsked(event))
})
