import { ask, makeReady } from '../../../../answers/ask'
import { readOutline } from '../../../../analysis/results'
import { engine } from '../../../../engine'
import { revisionOf } from '../../../../http/revision'
import { listRevisions } from '../../../../estates/store'

/** Kept with the analysis; until there is one, made from the model. */
export default defineEventHandler(async (event) => {
  const { db, id, slug, number } = await revisionOf(event)
  const [kept, revisions] = await Promise.all([
    readOutline(db, id, engine()),
    listRevisions(db, slug),
  ])
  const all = revisions ?? []
  const about = {
    slug,
    revision: all.find((r) => r.number === number),
    head: all[0]?.number ?? number,
  }
  const outline = kept ?? (await ask('outline', id, {}))
  makeReady(id)
  event.node.res.setHeader('content-type', 'application/json')
  return `${JSON.stringify(about).slice(0, -1)},${outline.slice(1)}`
})
