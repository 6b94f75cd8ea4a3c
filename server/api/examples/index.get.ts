import { listExamples } from '../../estates/examples'

export default defineEventHandler(() => listExamples())
