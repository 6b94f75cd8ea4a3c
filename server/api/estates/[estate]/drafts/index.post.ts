import { route } from '../../../../http/route'
import { database } from '../../../../database/client'
import { inDraft } from '../../../../drafts/drafts'
import { createDraft, deleteDraft } from '../../../../drafts/store'
import { body, params, refusal } from '../../../../http/respond'
import { newDraftBody } from '../../../../../contract/drafts'
import { estateParams } from '../../../../../contract/requests'

/** Starts a draft; where its first change cannot be made, there is none. */
export default route('/api/estates/{estate}/drafts', 'post', async (event, { name: author }) => {
  const { estate } = params(event, estateParams)
  const { name, note = '', kind, base, change } = await body(event, newDraftBody)
  const db = database()
  const id = await createDraft(db, estate, base ?? null, { name, author, note, kind })
  if (id === null)
    throw refusal(
      404,
      'no-such-revision',
      base === undefined
        ? `there is no estate "${estate}"`
        : `there is no revision ${base} of an estate "${estate}"`,
    )
  if (change) {
    try {
      const { what, patch } = change
      await inDraft(id, { want: 'change', what, patch, author, seen: 0 })
    } catch (error) {
      await deleteDraft(db, id)
      throw error
    }
  }
  setResponseStatus(event, 201)
  return { id }
})
