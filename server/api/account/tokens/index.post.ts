import { newTokenBody } from '../../../../contract/access'
import { makeToken } from '../../../access/tokens'
import { database } from '../../../database/client'
import { estateNamed } from '../../../estates/store'
import { roleWith } from '../../../access/admission'
import { rolesOf } from '../../../access/roles'
import { body, refusal } from '../../../http/respond'
import { route, tell } from '../../../http/route'

/** A token is told this once: what is kept of it does not say what it was. */
export default route('/api/account/tokens', 'post', async (event, asker) => {
  const { estate: slug, ...wanted } = await body(event, newTokenBody)
  const db = database()
  tell(event, { about: `token ${wanted.name}: ${wanted.role}, ${wanted.days} days` })
  let estateId: number | null = null
  if (slug !== null) {
    tell(event, { estate: slug })
    const role = roleWith(asker, slug, (await rolesOf(db, asker.id)).get(slug) ?? null)
    const known = role === null ? null : await estateNamed(db, slug)
    if (!known) throw refusal(404, 'no-such-estate', `there is no estate "${slug}"`)
    estateId = known.id
  }
  const made = await makeToken(db, asker.id, { ...wanted, estateId })
  setResponseStatus(event, 201)
  return { ...made, estate: slug }
})
