import type { Destination, Route, Rule } from '../format/estate'
import { splitRef } from '../format/ref'
import { viaText } from '../model/targets'
import { ruleText } from '../rules/words'
import type { Statement } from './statements'
import type { Unlike } from './likeness'

/** One difference of an object from its likes. */
export interface Distinction {
  readonly says: string
  /** What the object has in place of what its likes have, or besides; null where it lacks it. */
  readonly has: Statement | null
  /** What its likes have; null where they lack it. */
  readonly lacks: Statement | null
}

/**
 * What tells an object, by its number, from its likes, one difference at a time: something that stands in another's
 * place is one with it. Costs a look at each pair of what is lacked and what is there.
 */
export function differencesOf({ lacks, has }: Unlike, number: number): Distinction[] {
  const left = [...(has.get(number) ?? [])]
  const out = lacks.map((statement): Distinction => {
    const at = left.findIndex((other) => areOfOnePlace(statement, other))
    const [other = null] = at < 0 ? [] : left.splice(at, 1)
    return {
      lacks: statement,
      has: other,
      says: other ? changed(statement, other) : `no ${statementText(statement)}`,
    }
  })
  return [
    ...out,
    ...left.map((statement) => ({ lacks: null, has: statement, says: statementText(statement) })),
  ]
}

const sectionOf = ({ object }: Statement): string => splitRef(object)[0]

/** Whether one of two statements stands in the place of the other. */
function areOfOnePlace(a: Statement, b: Statement): boolean {
  if (a.path !== b.path || a.isOwn !== b.isOwn || sectionOf(a) !== sectionOf(b)) return false
  if (a.path === 'routes') return toText((a.value as Route).to) === toText((b.value as Route).to)
  if (a.path === 'rules' || a.path === 'policy') return a.object === b.object
  return true
}

const toText = (to: Destination): string =>
  typeof to === 'string' ? to : Object.entries(to).map((one) => one.join(' '))[0]!

/** What a statement says, as a noun. */
function statementText({ object, path, value }: Statement): string {
  if (path === 'routes') {
    const { to, via } = value as Route
    return `route to ${toText(to)} over ${viaText(via)}`
  }
  if (path === 'rules') return `rule ${ruleText(value as Rule)} in ${splitRef(object)[1]}`
  if (path === '') {
    const { state } = value as { readonly state?: string }
    return `host such as ${splitRef(object)[1]}${state === undefined ? '' : `, ${state}`}`
  }
  if (typeof value === 'object' && value !== null) return `${path} of ${splitRef(object)[1]}`
  return `${path} ${String(value)} of ${splitRef(object)[1]}`
}

/** What stands in another's place, and that. */
function changed(lacks: Statement, has: Statement): string {
  if (has.path === 'routes')
    return `route to ${toText((has.value as Route).to)} over ${viaText((has.value as Route).via)}, not ${viaText((lacks.value as Route).via)}`
  const keys = differingKeys(lacks, has)
  const where = has.path === 'sides' ? 'its peering' : splitRef(has.object)[1]
  if (keys.length === 0) return `other ${has.path || 'settings'} of ${where}`
  return keys
    .slice(0, MOST_KEYS)
    .map(({ key, before, now }) => `${key || has.path} ${now} of ${where}, not ${before}`)
    .join('; ')
}

const MOST_KEYS = 2

interface DifferingKey {
  readonly key: string
  readonly before: string
  readonly now: string
}

/** The keys under which two statements differ once names and ranges are left out. */
function differingKeys(lacks: Statement, has: Statement): DifferingKey[] {
  const differing = (key: string, a: unknown, b: unknown): DifferingKey[] => {
    if (typeof a === 'string' && typeof b === 'string')
      return lacks.seen(key, a) === has.seen(key, b) ? [] : [{ key, before: a, now: b }]
    if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null)
      return a === b ? [] : [{ key, before: plain(a), now: plain(b) }]
    if (Array.isArray(a) || Array.isArray(b)) return []
    const [before, now] = [a as Record<string, unknown>, b as Record<string, unknown>]
    const keys = [...new Set([...Object.keys(before), ...Object.keys(now)])]
    return keys
      .filter((inner) => !FOR_PEOPLE.has(inner))
      .flatMap((inner) => differing(inner, before[inner], now[inner]))
  }
  return differing(lacks.path, lacks.value, has.value)
}

const FOR_PEOPLE = new Set(['host', 'title', 'note', 'tags'])

const plain = (value: unknown): string =>
  value === undefined ? 'unset' : typeof value === 'object' ? 'another' : String(value)
