import type { Address } from '../address/address'
import { changed } from './next-state'
import type { State, Visits } from './state'

/** Some states under way, of packets to another destination. */
export function statesTowards(states: readonly State[], dst: Address): State[] {
  const visitsTo = visitsTowards(dst)
  return states.map((state) =>
    changed(state, { ...towards(state, dst), visited: visitsTo(state.visited) }),
  )
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
