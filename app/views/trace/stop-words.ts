import type { PacketJson } from '@salt-trail/core'
import type { Stop } from './align'

export const nameOf = (ref: string): string =>
  ref.includes('/') ? ref.slice(ref.indexOf('/') + 1) : ref

/** What is shown of a place: its name alone. */
export const stopTitle = (stop: Stop): string => nameOf(stop.at)

/** An address and its port apart, so that a narrow column breaks between them. */
interface PacketLine {
  readonly text: string
  readonly address: string
  readonly port: string
  readonly changed: boolean
}

function line(arrow: string, address: string, port: number | null, changed: boolean): PacketLine {
  const shown = `${arrow}${port !== null && address.includes(':') ? `[${address}]` : address}`
  const end = port === null ? '' : `:${port}`
  return { text: shown + end, address: shown, port: end, changed }
}

/** The packet after a place, where it begins or has been changed; the changed side is marked. */
export function packetLines(stop: Stop, before: PacketJson | null): PacketLine[] {
  const after = stop.stations.at(-1)!.packet
  if (before && before.src === after.src && before.dst === after.dst) return []
  return [
    line('', after.src, after.srcPort, before !== null && before.src !== after.src),
    line('→ ', after.dst, after.dstPort, before !== null && before.dst !== after.dst),
  ]
}
