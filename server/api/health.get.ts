import { openRoute } from '../http/route'

export default openRoute('/api/health', 'get', () => ({ state: 'up' }))
