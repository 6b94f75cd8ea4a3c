import type { z } from 'zod'
import type { Estate } from './estate'
import { errorsOf, type Problem } from './problem'
import { complaints } from './read/issues'
import {
  LIST_SECTIONS,
  listSections,
  MAP_SECTIONS,
  mapSections,
  keySchema,
  type ListSection,
  type Section,
} from './schema/document'
import { validate } from './validate/validate'

const NOWHERE = { file: '', line: 1, column: 1 } as const

/**
 * Everything that is wrong with an estate which was made, not read, such as one after a change:
 * each object against its schema, then the checks over the whole. Objects that `known`, a valid
 * estate, has too are not looked at by themselves. Problems name objects, and no place in a file.
 * Costs a step for every object, and the schemas of those that differ.
 */
export function checkEstate(estate: Estate, known: Estate | null = null): Problem[] {
  const problems: Problem[] = []
  const look = (schema: z.ZodType, value: unknown, object: string): void => {
    const read = schema.safeParse(value, { reportInput: true })
    if (read.success) return
    for (const { code, message, suggestion } of complaints(schema, read.error.issues))
      problems.push({
        severity: 'error',
        code,
        message: `${object}: ${message}`,
        ...NOWHERE,
        object,
        ...(suggestion === undefined ? {} : { suggestion }),
      })
  }
  for (const section of MAP_SECTIONS) {
    const own = estate[section] as ReadonlyMap<string, unknown>
    const before = known?.[section] as ReadonlyMap<string, unknown> | undefined
    if (own === before) continue
    for (const [id, object] of own) {
      if (before?.get(id) === object && before?.has(id)) continue
      look(keySchema(section), id, `${section}/${id}`)
      look(mapSections[section], object, `${section}/${id}`)
    }
  }
  for (const section of LIST_SECTIONS)
    if (estate[section] !== known?.[section])
      estate[section].forEach((entry, at) =>
        look(listSections[section], entry, `${section}/${at + 1}`),
      )
  // An object that does not fit its schema cannot be looked at together with others.
  if (problems.length > 0) return problems
  const declared = (section: Section): ReadonlyMap<string, unknown> => {
    const held: unknown = estate[section]
    return held instanceof Map ? (held as ReadonlyMap<string, unknown>) : NO_IDS
  }
  const listIds = (section: ListSection): string[] => estate[section].map((_, at) => String(at))
  return [...validate(estate, () => NOWHERE, declared, listIds).problems]
}

const NO_IDS: ReadonlyMap<string, unknown> = new Map()

/** Whether an estate has no error; warnings are no matter. */
export const isValid = (estate: Estate, known: Estate | null = null): boolean =>
  errorsOf(checkEstate(estate, known)).length === 0
