import { route } from '../../../../../http/route'
import { changeOf, changesOf, nextRedo, nextUndo } from '@salt-trail/core'
import { readLog, readTexts } from '../../../../../drafts/store'
import { findRevision } from '../../../../../estates/store'
import { aboutDraft, draftOf } from '../../../../../http/draft'
import { isKnown } from '../../../../../http/known'

export default route('/api/estates/{estate}/drafts/{draft}', 'get', async (event) => {
  const { db, slug, draft } = await draftOf(event)
  // Whoever has the draft open asks again and again: nothing is read while nothing was written.
  const head = (await findRevision(db, slug, null))?.number ?? draft.baseNumber
  if (isKnown(event, `"${draft.id}-${draft.edition}-${draft.baseId}-${head}"`)) return null
  const [log, texts] = await Promise.all([readLog(db, draft.id), readTexts(db, draft.id)])
  const { version, conflicts, pinned } = draft
  // An entry that came since the draft was read is told the next time.
  const seen = log.filter(({ number }) => number <= version)
  return {
    ...aboutDraft(draft),
    version,
    first: version - seen.length,
    head,
    changes: changesOf(seen).map(({ undoes: _, ...entry }) => entry),
    patch: changeOf(seen),
    undo: nextUndo(seen),
    redo: nextRedo(seen),
    ...{ conflicts, pinned, texts },
  }
})
