import type { PacketJson } from '@salt-trail/core'
import type { Stop } from './align'

export const nameOf = (ref: string): string => (ref.includes('/') ? ref.slice(ref.indexOf('/') + 1) : ref)

/** What is shown of a place: its name alone. */
export const stopTitle = (stop: Stop): string => nameOf(stop.at)

const end = (address: string, port: number | null): string => (port === null ? address : address.includes(':') ? `[${address}]:${port}` : `${address}:${port}`)

/** The packet after a place, where it begins or has been changed; the changed side is marked. */
export function packetLines(stop: Stop, before: PacketJson | null): { text: string; changed: boolean }[] {
  const after = stop.stations.at(-1)!.packet
  if (before && before.src === after.src && before.dst === after.dst) return []
  return [
    { text: end(after.src, after.srcPort), changed: before !== null && before.src !== after.src },
    { text: `→ ${end(after.dst, after.dstPort)}`, changed: before !== null && before.dst !== after.dst },
  ]
}
