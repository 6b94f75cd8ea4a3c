import { sameField } from './scope'
import type { State, Visit, WalkContext } from './state'

/** The visit that a state is about to make. */
export const visitOf = (state: State): Visit => ({
  place: placeOf(state),
  packet: state.packet,
  fields: state.fields,
  stations: state.stations.length,
})

/**
 * The earlier visit to the same place, from the same side, with the same header: a loop, since
 * everything would happen again.
 */
export function sameVisit(context: WalkContext, state: State): Visit | undefined {
  const now = visitOf(state)
  const same = (field: keyof State['fields'], then: Visit): boolean =>
    sameField(
      context,
      [now.packet[field], now.fields[field]],
      [then.packet[field], then.fields[field]],
    )
  // A place is entered twice at most, so the latest visit that fits is the only one.
  for (let visits = state.visited; visits !== null; visits = visits.before) {
    const then = visits.latest
    if (
      then.place === now.place &&
      same('src', then) &&
      same('dst', then) &&
      same('srcPort', then) &&
      same('dstPort', then)
    )
      return then
  }
  return undefined
}

/**
 * A place, the side it is entered from, and everything else that steers a walk besides the header.
 */
export function placeOf({ next, pendingNat, toUndo }: State): string {
  const header = `${pendingNat} ${toUndo.length}`
  switch (next.at) {
    case 'send':
      return `send ${next.sender.kind} ${next.sender.ref} ${next.sender.place.subnet} ${next.sender.handTo} ${header}`
    case 'hop':
      return `hop ${next.from.ref} ${next.from.subnet} ${next.route.table} ${next.route.entry} ${next.route.prefix.address}/${next.route.prefix.length} ${next.route.target.kind} ${header}`
    case 'nat':
      return `nat ${next.nat} ${next.fromSubnet} ${header}`
    case 'local':
      return `local ${next.network} ${next.fromSubnet} ${header}`
    case 'outside':
      return `outside ${header}`
    case 'forwarder':
      return `forwarder ${next.interface} ${next.fromSubnet} ${header}`
    case 'site':
      return `site ${next.site} ${header}`
    case 'transit':
      return `transit ${next.transit} ${next.attachment} ${header}`
    case 'service':
      return `service ${next.by} ${header}`
  }
}
