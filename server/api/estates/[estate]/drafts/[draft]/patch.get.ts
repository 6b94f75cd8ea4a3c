import { route } from '../../../../../http/route'
import { inDraft } from '../../../../../drafts/drafts'
import { draftOf } from '../../../../../http/draft'

export default route('/api/estates/{estate}/drafts/{draft}/patch', 'get', async (event) => {
  const { slug, draft } = await draftOf(event)
  setResponseHeader(
    event,
    'content-disposition',
    `attachment; filename="${slug}-draft-${draft.id}.patch.json"`,
  )
  return inDraft(draft.id, { want: 'patch' })
})
