import { limits } from '../estates/limits'

/** Bytes of a body that asks one question, or says a few words. */
const QUESTION = 64 * 1024
/** Of one with many questions, or a change of a draft, which may hold many objects. */
const MANY = 8 * 1024 * 1024

/** Routes that take files of estates. JSON escapes may double a file's text on its way. */
const FILES = /^\/api\/(check|estates|estates\/[^/]+\/(compare|revisions))$/
const LONG = /\/(traces|prove|moves)$|\/drafts(\/|$)/

/** How large the body of a request to a path may be, in bytes. */
export function mostBytes(path: string): number {
  if (FILES.test(path)) return 2 * limits().bytes
  return LONG.test(path) ? Math.min(MANY, 2 * limits().bytes) : QUESTION
}
