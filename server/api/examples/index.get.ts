import { route } from '../../http/route'
import { listExamples } from '../../estates/examples'

export default route('/api/examples', 'get', () => listExamples())
