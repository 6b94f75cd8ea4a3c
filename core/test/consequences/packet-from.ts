import {
  hasPorts,
  type Address,
  type Model,
  type Packet,
  type Pair,
  type PairedSender,
} from '../../src/index'
import type { Random } from '../random/random'

/** A packet of a sender to some end of the estate or outside it. */
export function packetFrom(pair: Pair, { both }: PairedSender, r: Random): Packet | null {
  if (both.length === 0) return null
  const src = r.pick(both).from
  const protocol = r.pick([6, 6, 17, 1, 47])
  const ports = hasPorts(protocol)
  const dst = r.pick(destinations(pair.after).filter((one) => typeof one === typeof src))
  return {
    src,
    dst,
    protocol,
    srcPort: ports ? r.pick([50000, 1024, 22]) : null,
    dstPort: ports ? r.pick([443, 22, 53, 8443, 5432]) : null,
  }
}

const destinations = (model: Model): Address[] => [
  ...model.interfaces.flatMap((one) => one.addresses),
  ...model.publicOwners.keys(),
  ...model.frontends.flatMap((one) => one.addresses),
  0x08080404,
  0xac140105,
  0x20010db8n << 96n,
]
