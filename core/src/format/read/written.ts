import type { Estate } from '../estate'
import { LIST_SECTIONS, MAP_SECTIONS, SINGLE_SECTIONS, type Section } from '../schema/document'
import { isPlace } from './json-at-once'

/**
 * The estate of a text that `writeJson` made of an estate without errors. Nothing is checked again,
 * which is nearly all that reading costs: the caller knows that the text is such a one, and that
 * the checks have not changed since. Null where ids are numbers, which a plain object moves to the
 * front: such a text is for `readEstate`. Throws a SyntaxError where it is no JSON.
 */
export function readWritten(text: string): Estate | null {
  const {
    format: _,
    name,
    ...written
  } = JSON.parse(text) as { format: string; name: string } & Record<string, unknown>
  const order = Object.keys(written) as Section[]
  const sections: Record<string, unknown> = {}
  for (const section of MAP_SECTIONS) {
    const objects = Object.entries((written[section] ?? {}) as Record<string, unknown>)
    if (objects.some(([id]) => isPlace(id))) return null
    sections[section] = new Map(objects)
  }
  for (const section of LIST_SECTIONS) sections[section] = written[section] ?? []
  for (const section of SINGLE_SECTIONS) sections[section] = written[section] ?? null
  return { name, ...sections, order } as unknown as Estate
}
