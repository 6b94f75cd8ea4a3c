import { familyOf, parseAddress, type Address } from '../address/address'
import { isPublic } from '../address/public'
import {
  intersectRanges,
  rangeSet,
  sameRanges,
  subtractRanges,
  type Range,
  type RangeSet,
} from '../address/ranges'
import type { PublishedPort } from '../exits/doors'
import { internetRanges } from '../expectations/selection'
import { derived } from '../incremental/derived'
import type { FirewallModel, Model, NatModel } from '../model/model'
import { idsOf, rangesOf } from '../model/present'
import { TCP, UDP } from '../packet/packet'
import { allPackets, boxWith, subtractBox, type PacketBox } from '../packet/packet-set'
import { placeOfProtocol } from '../packet/protocols'
import { passing } from '../rules/passing'

const PORTS: Range = { from: 0, to: 65535 }
const one = (value: Address): Range => ({ from: value, to: value })

/** The internet without the public addresses that the estate itself or a site has. */
export const outsideSpace = derived(
  (model: Model): RangeSet =>
    subtractRanges(
      internetRanges(model),
      rangeSet(idsOf(model, 'sites').flatMap((id) => rangesOf(model, 'sites', id))),
    ),
  { same: sameRanges },
)

/**
 * What the host's own rules can let in at all: asked of the rules alone, which is far less work
 * than walking. `door` is the address that is sent to. Where a firewall translates on the way, or a
 * door's own table may lead through one, nothing is left out. Costs no walk.
 */
export function throughRules(model: Model, index: number, door: Address): PacketBox[] {
  const host = model.interfaces[index]!
  const network = model.subnets[host.subnet]!.network
  const all = { ...allPackets(typeof door === 'number' ? 4 : 6), dst: one(door) }
  const own =
    door === host.publicAddress
      ? host.addresses.find((address) => typeof address === 'number')
      : host.addresses.includes(door)
        ? door
        : undefined
  const steered =
    model.attached.gateways.get(network)?.some((gateway) => gateway.table >= 0) ?? false
  const place = { subnet: host.subnet, interface: index }
  const passed =
    own === undefined || steered
      ? [all]
      : passing(model, { direction: 'in', place, crosses: true }, [{ ...all, dst: one(own) }])
  return passed.map((box) => ({ ...box, dst: one(door) }))
}

/** Every packet to a port that a frontend publishes. */
export function packetsTo({ address, protocol, port }: PublishedPort): PacketBox[] {
  const places = [TCP, UDP].filter((one) => protocol === null || protocol === one)
  return places.map((one) => ({
    ...allPackets(familyOf(address)),
    dst: { from: address, to: address },
    protocol: { from: placeOfProtocol(one), to: placeOfProtocol(one) },
    dstPort: { from: port, to: port },
  }))
}

/** The addresses that routed firewalls and translators give to packets they send on. */
const translators = derived(
  (model: Model): RangeSet =>
    rangeSet(
      [
        ...model.firewalls.flatMap((wall) => givenBy(model, wall)),
        ...model.nats.flatMap(ownOf),
      ].map(one),
    ),
  { same: sameRanges },
)

const ownOf = ({ addresses, rules }: NatModel): readonly Address[] => [
  ...addresses,
  ...rules.flatMap(({ use }) => use),
]

const givenBy = (model: Model, { source, interfaces }: FirewallModel): Address[] =>
  source.style !== 'routed'
    ? []
    : (source.sourceTranslation ?? []).flatMap(({ use }) =>
        use === 'interface'
          ? interfaces.flatMap((side) => model.interfaces[side.interface]!.addresses)
          : use.map((text) => parseAddress(text)!),
      )

/** More boxes than this are not held apart: they are walked as one. */
const MOST_BOXES = 64

/**
 * What rules let in, as it is sent: where they let in what a firewall or NAT makes of a source,
 * packets from everywhere may come by it. So may packets to a public address: they leave the network
 * of their sender, which may translate them. No two of the boxes share a packet. Quadratic in the
 * boxes, of which there are few.
 */
export function throughTranslators(model: Model, boxes: readonly PacketBox[]): PacketBox[] {
  const [first] = boxes
  if (first === undefined) return []
  if (boxes.length > MOST_BOXES) return [allPacketsTo(first.dst)]
  const { src } = allPackets(familyOf(first.dst.from))
  const sent = boxes.map((box) =>
    !isPublic(box.dst.from) && intersectRanges(rangeSet([box.src]), translators(model)).length === 0
      ? box
      : boxWith(box, { src, srcPort: PORTS }),
  )
  const apart: PacketBox[] = []
  for (const box of sent)
    apart.push(
      ...apart.reduce<PacketBox[]>(
        (parts, other) => parts.flatMap((part) => subtractBox(part, other)),
        [box],
      ),
    )
  return apart
}

const allPacketsTo = (dst: Range): PacketBox => boxWith(allPackets(familyOf(dst.from)), { dst })
