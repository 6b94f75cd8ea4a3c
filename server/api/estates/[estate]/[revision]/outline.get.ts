import { route } from '../../../../http/route'
import { ask, makeReady } from '../../../../answers/ask'
import { readOutline } from '../../../../analysis/results'
import { engine } from '../../../../engine'
import { revisionOf } from '../../../../http/revision'
import { findDraft } from '../../../../drafts/store'
import { listRevisions } from '../../../../estates/store'

/** Kept with the analysis; until there is one, made from the model. */
export default route('/api/estates/{estate}/{revision}/outline', 'get', async (event, asker) => {
  const { db, id, slug, number, draft } = await revisionOf(event)
  const told = draft ? await findDraft(db, slug, draft.id) : null
  const [kept, revisions] = await Promise.all([
    readOutline(db, id, engine()),
    listRevisions(db, slug),
  ])
  const all = revisions ?? []
  const about = {
    slug,
    role: asker.role!,
    revision: all.find((r) => r.number === number),
    head: all[0]?.number ?? number,
    draft: draft && told ? { ...draft, name: told.name, kind: told.kind } : null,
  }
  const outline = kept ?? (await ask(event, 'outline', id, {}))
  makeReady(event, id)
  event.node.res.setHeader('content-type', 'application/json')
  return `${JSON.stringify(about).slice(0, -1)},${outline.slice(1)}`
})
