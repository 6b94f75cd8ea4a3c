import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { membersQuery, MOST_COLUMNS_OPENED } from '../../../../../contract/exits'

export default route('/api/estates/{estate}/{revision}/members', 'get', async (event) => {
  const { column, subnets, members, turned } = query(event, membersQuery)
  const { id, number } = await revisionOf(event)
  const asked = {
    revision: number,
    column,
    subnets,
    named: members,
    most: MOST_COLUMNS_OPENED,
    entering: turned === 'entering',
  }
  return answer(event, 'members', id, asked)
})
