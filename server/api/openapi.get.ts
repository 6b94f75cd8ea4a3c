import { openApi } from '../contract/openapi'

export default defineEventHandler(() => openApi())
