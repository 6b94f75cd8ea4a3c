import { pointer, type Change, type Operation } from '../changes/index'
import { canonical } from '../compare/compare'
import type { Estate } from '../format/estate'
import {
  LIST_SECTIONS,
  MAP_SECTIONS,
  SINGLE_SECTIONS,
  type MapSection,
} from '../format/schema/document'

/** A part of a change that is carried out at once: one object that comes, goes, or differs. */
export interface Atom {
  /** What is done, as a clause: `add nats/second`. */
  readonly what: string
  readonly change: Change
  /** Its place in the usual order: what comes, then what differs, then what goes. */
  readonly rank: number
}

/** Sections in the order in which their objects are made; they are taken away in reverse. */
const MADE_FIRST: readonly MapSection[] = [
  'regions',
  'networks',
  'prefixLists',
  'sites',
  'services',
  'parties',
  'publicAddresses',
  'ruleSets',
  'routeTables',
  'subnets',
  'interfaces',
  'gateways',
  'peerings',
  'transits',
  'endpoints',
  'firewalls',
  'nats',
  'frontends',
]

/**
 * What differs between two states as parts that can be carried out one by one, in the usual order.
 * All of them together make the later state of the earlier one, but for the order of objects.
 */
export function atomsOf(before: Estate, after: Estate): Atom[] {
  const out: Atom[] = []
  if (before.name !== after.name)
    out.push({
      what: `rename the estate to ${after.name}`,
      change: [{ op: 'replace', path: '/name', value: after.name }],
      rank: CHANGES,
    })
  for (const section of MAP_SECTIONS) out.push(...objectAtoms(before, after, section))
  for (const section of LIST_SECTIONS)
    if (canonical(before[section]) !== canonical(after[section]))
      out.push(wholeAtom(section, before[section].length > 0, after[section]))
  for (const section of SINGLE_SECTIONS)
    if (canonical(before[section]) !== canonical(after[section]))
      out.push(wholeAtom(section, before[section] !== null, after[section]))
  return out.sort((a, b) => a.rank - b.rank)
}

const CHANGES = 1000
const REMOVALS = 2000

function objectAtoms(before: Estate, after: Estate, section: MapSection): Atom[] {
  const [olds, news] = [before[section], after[section]] as ReadonlyMap<string, Loose>[]
  const at = MADE_FIRST.indexOf(section)
  const place = at < 0 ? MADE_FIRST.length : at
  const out: Atom[] = []
  for (const [id, value] of news!) {
    const old = olds!.get(id)
    const path = pointer(section, id)
    if (old === undefined)
      out.push({
        what: `add ${section}/${id}`,
        change: [{ op: 'add', path, value }],
        rank: place,
      })
    else if (old !== value && canonical(old) !== canonical(value)) {
      const { change, keys } = keyChanges(path, old, value)
      out.push({
        what: `change ${keys.join(', ')} of ${section}/${id}`,
        change,
        rank: CHANGES + place,
      })
    }
  }
  for (const id of olds!.keys())
    if (!news!.has(id))
      out.push({
        what: `remove ${section}/${id}`,
        change: [{ op: 'remove', path: pointer(section, id) }],
        rank: REMOVALS - place + MADE_FIRST.length,
      })
  return out
}

type Loose = Readonly<Record<string, unknown>>

/** The keys of an object that differ, and what is done to each. */
function keyChanges(path: string, old: Loose, now: Loose): { change: Change; keys: string[] } {
  const keys = [...new Set([...Object.keys(old), ...Object.keys(now)])].filter(
    (key) => canonical(old[key]) !== canonical(now[key]),
  )
  const change = keys.map((key): Operation => {
    const at = `${path}${pointer(key)}`
    if (!Object.hasOwn(now, key)) return { op: 'remove', path: at }
    return { op: Object.hasOwn(old, key) ? 'replace' : 'add', path: at, value: now[key] }
  })
  return { change, keys }
}

/** A section that is carried out as a whole. */
function wholeAtom(section: string, wasThere: boolean, now: unknown): Atom {
  const path = pointer(section)
  const isThere = Array.isArray(now) ? now.length > 0 : now !== null
  const change: Operation = isThere
    ? { op: wasThere ? 'replace' : 'add', path, value: now }
    : { op: 'remove', path }
  return { what: `change ${section}`, change: [change], rank: CHANGES }
}
