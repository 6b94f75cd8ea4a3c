import { pathText, type Complaint } from './issues'
import type { Path } from './source'

/** The character that no text of an estate may hold: databases and terminals end texts at it. */
export const NUL = '\u0000'
export const HOLDS_NUL = 'holds the character U+0000, which no text may hold; take it out'

/** How the character may stand in a file: as it is, or escaped as YAML and JSON write it. */
const WRITTEN = [NUL, '\\0', '\\x00', '\\u0000', '\\U00000000']

/** Whether a file may hold the character, judged by its text alone. Costs a few searches of it. */
export const mayHoldNul = (text: string): boolean =>
  WRITTEN.some((written) => text.includes(written))

/** A complaint for each text or key in a value that holds the character. */
export function textsWithNul(value: unknown, path: Path = []): Complaint[] {
  const complaint = (at: Path, part: Complaint['part']): Complaint => ({
    code: 'bad-text',
    message: `${at.length === 0 ? 'it' : pathText(at).replaceAll(NUL, '\\u0000')}: the ${part === 'key' ? 'key' : 'text'} ${HOLDS_NUL}`,
    path: at,
    part,
  })
  if (typeof value === 'string') return value.includes(NUL) ? [complaint(path, 'value')] : []
  if (Array.isArray(value))
    return value.flatMap((one, index) => textsWithNul(one, [...path, index]))
  if (typeof value !== 'object' || value === null) return []
  return Object.entries(value).flatMap(([key, inner]) => {
    const at = [...path, key]
    return [...(key.includes(NUL) ? [complaint(at, 'key')] : []), ...textsWithNul(inner, at)]
  })
}
