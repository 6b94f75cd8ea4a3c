import { revisionOf } from '../../../../contract/revision'
import { modelOf } from '../../../../estates/models'
import { outlineOf } from '../../../../estates/outline'
import { listRevisions } from '../../../../estates/store'

export default defineEventHandler(async (event) => {
  const { db, id, slug, number } = await revisionOf(event)
  const [{ model }, revisions] = await Promise.all([modelOf(db, id), listRevisions(db, slug)])
  const all = revisions ?? []
  return { slug, name: model.estate.name, revision: all.find((r) => r.number === number), head: all[0]?.number ?? number, ...outlineOf(model) }
})
