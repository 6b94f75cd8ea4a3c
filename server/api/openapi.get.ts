import { openRoute } from '../http/route'
import { openApi } from '../http/openapi'

export default openRoute('/api/openapi', 'get', () => openApi())
