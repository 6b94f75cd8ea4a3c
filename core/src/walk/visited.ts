import type { State } from './state'

/**
 * A place, the side it is entered from, the whole header and what else steers a walk: the same
 * twice is a loop, since everything would happen again.
 */
export function packetKey({ next, packet, pendingNat, toUndo }: State): string {
  const header = `${packet.src} ${packet.dst} ${packet.srcPort} ${packet.dstPort} ${pendingNat} ${toUndo.length}`
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
