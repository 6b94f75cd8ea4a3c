import { route } from '../../../../../http/route'
import { analyseSaved } from '../../../../../analysis/saved'
import { saveOfDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'
import { body } from '../../../../../http/respond'
import { saveDraftBody } from '../../../../../../contract/drafts'

export default route(
  '/api/estates/{estate}/drafts/{draft}/revision',
  'post',
  async (event, { name: author }) => {
    const { note = '', reason = null } = await body(event, saveDraftBody)
    const { db, slug, draft } = await draftOf(event)
    const saved = await saveOfDraft(draft.id, { slug, author, note: note || draft.name, reason })
    await analyseSaved(db, saved)
    setResponseStatus(event, 201)
    return saved
  },
)
