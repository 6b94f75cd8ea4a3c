import { database } from '../../database/client'
import { listEstates } from '../../estates/store'

export default defineEventHandler(() => listEstates(database()))
