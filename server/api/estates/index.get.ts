import { route } from '../../http/route'
import { database } from '../../database/client'
import { listEstates } from '../../estates/store'
import { roleWith } from '../../access/admission'
import { rolesOf } from '../../access/roles'

export default route('/api/estates', 'get', async (_event, asker) => {
  const db = database()
  const [all, roles] = await Promise.all([listEstates(db), rolesOf(db, asker.id)])
  return all.flatMap((one) => {
    const role = roleWith(asker, one.slug, roles.get(one.slug) ?? null)
    return role === null ? [] : [{ ...one, role }]
  })
})
