import type { Role } from '../../contract/parts'
import type { Database } from '../database/client'
import { refusal } from '../http/respond'
import { changeRole, peopleOf } from './roles'

/** Gives somebody a role, or takes it away; then who has one. Or a refusal. */
export async function changeRoleOrRefuse(
  db: Database,
  slug: string,
  login: string,
  role: Role | null,
) {
  const became = await changeRole(db, slug, login, role)
  if (became === 'no-such-account')
    throw refusal(404, 'no-such-account', `there is no account "${login}"; invite it first`)
  if (became === 'no-role')
    throw refusal(404, 'no-such-role', `"${login}" has no role for this estate`)
  if (became === 'last-owner')
    throw refusal(409, 'last-owner', 'the estate would have no owner then; name another one first')
  return peopleOf(db, slug)
}
