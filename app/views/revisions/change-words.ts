import { explainCause, type Cause, type ObjectChange, type WayText } from '@salt-trail/core'
import { wayInOrder } from '~/objects/way-element'
import { nameOf } from '~/views/exits/cells'

/** A way in words: what is passed, or why packets are lost. */
export function wayTextOf(way: WayText | null): string {
  if (way === null) return 'not there'
  if (way.cause) return explainCause(way.cause as Pick<Cause, 'code' | 'object' | 'inner'>)
  const passed = wayInOrder(way.way) || 'handed over inside the network'
  return way.seenAs.length === 0 ? passed : `${passed}, as ${way.seenAs.join(' or ')}`
}

/**
 * Both sides of a change. Where their words are the same, what they speak of differs, and is named.
 */
export function bothTexts({
  before,
  after,
}: {
  readonly before: WayText | null
  readonly after: WayText | null
}): [string, string] {
  const texts: [string, string] = [wayTextOf(before), wayTextOf(after)]
  if (texts[0] !== texts[1]) return texts
  const named = (text: string, way: WayText | null): string =>
    way?.cause ? `${text} (${nameOf(way.cause.object)})` : text
  return [named(texts[0], before), named(texts[1], after)]
}

export interface SectionChanges {
  readonly section: string
  readonly changes: readonly (ObjectChange & { readonly name: string })[]
}

/** Changed objects by their section, in the order of the format. */
export function bySection(changes: readonly ObjectChange[]): SectionChanges[] {
  const sections = new Map<string, (ObjectChange & { name: string })[]>()
  for (const change of changes) {
    const slash = change.object.indexOf('/')
    const section = slash < 0 ? 'organisation' : change.object.slice(0, slash)
    const list = sections.get(section) ?? []
    sections.set(section, list)
    list.push({ ...change, name: slash < 0 ? change.object : change.object.slice(slash + 1) })
  }
  return [...sections].map(([section, all]) => ({ section, changes: all }))
}
