import { openApi } from '../http/openapi'

export default defineEventHandler(() => openApi())
