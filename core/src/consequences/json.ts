import { rangeSet, rangeText, type RangeSet } from '../address/ranges'
import { packetJson, protocolName, type PacketJson } from '../packet/packet'
import { PLACES_WITH_PORTS, protocolAt } from '../packet/protocols'
import { endName } from './fate'
import type { NamedRanges, PassedFirewalls, Row } from './rows'

/** A row of packets as programs read it: a full product of its fields (design part 9.5). */
export interface PacketRowJson {
  readonly from: readonly string[]
  readonly src: readonly string[]
  readonly to: readonly string[]
  readonly dst: readonly string[]
  /** `tcp`, `udp`, `icmp`, `icmpv6`, a number, or `any` for all of them. */
  readonly protocol: string | number
  /** Left out for protocols without ports, and for `any`. */
  readonly ports?: readonly string[]
  readonly sourcePorts?: readonly string[]
  readonly packet: PacketJson
  /** For `passedBy` and `inspected` the firewalls on every branch; for `elsewhere` the hosts. */
  readonly before?: PassedFirewalls | readonly string[]
  readonly after?: PassedFirewalls | readonly string[]
  /** Only some of several branches are concerned. */
  readonly partly?: true
  /** An end is down after the change. */
  readonly failed?: true
  /** Only one source port: it looks like what a stateless list lets answer. */
  readonly likeAnswers?: true
}

/**
 * A row in JSON: one entry for each protocol, or one for all. Ranges are prefixes where they are
 * one, else `first-last`.
 */
export function packetRowsJson(row: Row): PacketRowJson[] {
  const { from, to, partly, failed, firewalls, hosts } = row
  const [src, dst] = [rangesOf(from), rangesOf(to)]
  const shared = {
    from: namesOf(from),
    src: src.map(rangeText),
    to: namesOf(to),
    dst: dst.map(rangeText),
  }
  const compared = firewalls ?? (hosts && namedHosts(hosts))
  const flags = {
    ...(compared ? { before: compared.before, after: compared.after } : {}),
    ...(partly ? { partly } : {}),
    ...(failed ? { failed } : {}),
    ...(isLikeAnswers(row) ? { likeAnswers: true as const } : {}),
  }
  const isAll = row.protocols.length === 1 && sizeOf(row.protocols) === 256
  if (isAll) return [{ ...shared, protocol: 'any', packet: packetJson(row.packet), ...flags }]
  return placesOf(row.protocols).map((place): PacketRowJson => {
    const protocol = protocolAt(place)
    const ported = place <= PLACES_WITH_PORTS.to
    const { srcPort, dstPort } = row.packet
    const likely = (port: number | null, among: RangeSet, usual: number): number =>
      port ?? (among[0]!.from <= usual && usual <= among[0]!.to ? usual : Number(among[0]!.from))
    return {
      ...shared,
      protocol: protocolName(protocol),
      ...(ported
        ? { ports: portsText(row.dstPorts), sourcePorts: portsText(row.srcPorts) }
        : undefined),
      packet: packetJson({
        ...row.packet,
        protocol,
        srcPort: ported ? likely(srcPort, row.srcPorts, 50000) : null,
        dstPort: ported ? likely(dstPort, row.dstPorts, 443) : null,
      }),
      ...flags,
    }
  })
}

/** Whether only one source port is meant: such rows come last. */
export const isLikeAnswers = ({ srcPorts, protocols }: Row): boolean =>
  protocols[0]!.from <= PLACES_WITH_PORTS.to && sizeOf(srcPorts) === 1

const namedHosts = (hosts: NonNullable<Row['hosts']>): Record<'before' | 'after', string[]> => ({
  before: hosts.before.map(endName),
  after: hosts.after.map(endName),
})

/** A name may stand for several ends that are reached at once, as by a frontend. */
export const namesOf = (ends: NamedRanges): string[] =>
  [...new Set([...ends.keys()].flatMap((name) => name.split(' ')))].sort()

const rangesOf = (ends: NamedRanges): RangeSet => rangeSet([...ends.values()].flat())

/** How many numbers a set of ports or places has. */
export const sizeOf = (set: RangeSet): number =>
  set.reduce((sum, { from, to }) => sum + Number(to) - Number(from) + 1, 0)

/** Every place of a set of protocols. */
export const placesOf = (set: RangeSet): number[] =>
  set.flatMap(({ from, to }) =>
    Array.from({ length: Number(to) - Number(from) + 1 }, (_, at) => Number(from) + at),
  )

/** Ports as `443` or `1024-65535`. */
export const portsText = (set: RangeSet): string[] =>
  set.map(({ from, to }) => (from === to ? String(from) : `${from}-${to}`))
