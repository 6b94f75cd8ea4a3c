import { route } from '../http/route'
import { checkBody } from '../../contract/requests'
import { bodyWithFiles, reading } from '../reading/reading'

export default route('/api/check', 'post', async (event) => {
  const { files } = await bodyWithFiles(event, checkBody)
  return (await reading(event, files, { want: 'problems' })).problems
})
