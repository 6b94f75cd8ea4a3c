import { changed } from './next-state'
import type { Address } from '../address/address'
import type { Meetings } from './meeting'
import type { Scope } from './fields'
import type { State, Visits, Walked } from './state'

/**
 * A walk at the moment before a step that put a condition to the destination: what it is for
 * other destinations up to there. A walk to one of them goes on from here, in place of being walked
 * from its start; a long way whose last door tells public from private space is walked once.
 */
export interface Parting {
  /** The packets for which everything up to here was the same. */
  readonly box: Scope['box']
  readonly run: Run
}

/** A walk under way. */
export interface Run {
  readonly walks: readonly Walked[]
  readonly pending: readonly State[]
  /** How many places each of the pending ones has entered so far. */
  readonly steps: readonly number[]
  readonly truncated: boolean
  readonly meetings: Meetings | null
  /** Whether visits are noted. */
  readonly watched: boolean
}

/** A walk that begins. */
export const beginning = (start: State, watched: boolean): Run => ({
  walks: [],
  pending: [start],
  steps: [0],
  truncated: false,
  meetings: null,
  watched,
})

/** The latest of some partings from which a walk to a destination may go on, if there is one. */
export function partingFor(trail: readonly Parting[], dst: Address): Parting | undefined {
  for (let at = trail.length - 1; at >= 0; at--) {
    const { from, to } = trail[at]!.box.dst
    if (from <= dst && dst <= to) return trail[at]
  }
  return undefined
}

/** A walk from a parting on, to another destination. */
export function runTo({ run }: Parting, dst: Address): Run {
  const visitsTo = visitsTowards(dst)
  return {
    ...run,
    pending: run.pending.map((state) =>
      changed(state, { ...towards(state, dst), visited: visitsTo(state.visited) }),
    ),
    meetings: run.meetings?.copy() ?? null,
  }
}

/** A header of a packet to another destination, as far as it still has the one it began with. */
const towards = ({ packet, fields }: Pick<State, 'packet' | 'fields'>, dst: Address) =>
  fields.dst === 'dst' ? { packet: { ...packet, dst } } : {}

/** Visits of packets to another destination. The paths of a walk share the beginnings of theirs. */
function visitsTowards(dst: Address): (visits: Visits | null) => Visits | null {
  const made = new Map<Visits, Visits>()
  return (visits) => {
    const left: Visits[] = []
    let at = visits
    for (; at !== null && !made.has(at); at = at.before) left.push(at)
    let out = at === null ? null : made.get(at)!
    for (const one of left.reverse()) {
      out = { latest: { ...one.latest, ...towards(one.latest, dst) }, before: out }
      made.set(one, out)
    }
    return out
  }
}
