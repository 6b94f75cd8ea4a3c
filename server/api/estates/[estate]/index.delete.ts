import { route } from '../../../http/route'
import { stopAnalysis } from '../../../analysis/runs'
import { database } from '../../../database/client'
import { deleteEstate, estateNamed, revisionIds } from '../../../estates/store'
import { body, params, refusal } from '../../../http/respond'
import { deleteEstateBody, estateParams } from '../../../../contract/requests'

/** Deletes an estate with everything that was saved of it; whoever does it types its name. */
export default route('/api/estates/{estate}', 'delete', async (event) => {
  const { estate: slug } = params(event, estateParams)
  const { name } = await body(event, deleteEstateBody)
  const db = database()
  const known = await estateNamed(db, slug)
  if (!known) throw refusal(404, 'no-such-estate', `there is no estate "${slug}"`)
  if (known.name !== name)
    throw refusal(
      422,
      'other-name',
      `the estate is called "${known.name}", not "${name}"; nothing was deleted`,
    )
  for (const id of await revisionIds(db, known.id)) await stopAnalysis(id)
  await deleteEstate(db, known.id)
  return { slug }
})
