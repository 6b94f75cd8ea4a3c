import { MAP_SECTIONS as SECTIONS } from '@salt-trail/core'

/** A part of a text, and the object that it names. */
export interface TextPart {
  readonly text: string
  /** `section/id`; null where it names none. */
  readonly of: string | null
}

const idOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)
const escaped = (id: string): string => id.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')

/**
 * A text cut at the objects that it names, so that each name can lead to its object: at every
 * `section/id`, and at the ids of the objects given, the longest first. An id inside a longer word
 * or address names none.
 */
export function namedParts(text: string, objects: readonly string[]): TextPart[] {
  const byId = new Map<string, string>()
  for (const ref of objects) {
    if (ref.includes('/') && !byId.has(idOf(ref))) byId.set(idOf(ref), ref)
  }
  const ids = [...byId.keys()].sort((a, b) => b.length - a.length).map(escaped)
  const names = [`(?:${SECTIONS.join('|')})/[\\w.-]*\\w`, ...ids].join('|')
  return text
    .split(new RegExp(`(?<![\\w./:-])(${names})(?![\\w/-]|[:.]\\w)`))
    .filter((part) => part !== '')
    .map((part) => {
      const isWhole = SECTIONS.some((section) => part.startsWith(`${section}/`))
      return isWhole ? { text: idOf(part), of: part } : { text: part, of: byId.get(part) ?? null }
    })
}
