import { route } from '../../../../../http/route'
import { keepText } from '../../../../../drafts/store'
import { draftOf } from '../../../../../http/draft'
import { body, refusal } from '../../../../../http/respond'
import { draftTextBody } from '../../../../../../contract/drafts'

export default route(
  '/api/estates/{estate}/drafts/{draft}/texts',
  'put',
  async (event, { name: author }) => {
    const { object, text } = await body(event, draftTextBody)
    const { db, draft } = await draftOf(event)
    if (!(await keepText(db, draft.id, object, author, text)))
      throw refusal(
        409,
        'too-many-texts',
        'too many objects are half-typed in this draft; keep or give up some of them first',
      )
    return { id: draft.id }
  },
)
