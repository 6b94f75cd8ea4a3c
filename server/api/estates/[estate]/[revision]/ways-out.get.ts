import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { waysOutQuery } from '../../../../../contract/moves'

export default route('/api/estates/{estate}/{revision}/ways-out', 'get', async (event) => {
  const { subnets, addresses } = query(event, waysOutQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'waysOut', id, { subnets: listIn(subnets), addresses: listIn(addresses) })
})

const listIn = (text: string): string[] => text.split(',').filter((one) => one !== '')
