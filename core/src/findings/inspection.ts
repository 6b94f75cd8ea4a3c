import { compareAddresses, formatAddress, type Address } from '../address/address'
import { prefixOf } from '../address/prefix'
import { rangeSet, rangeSetOf, subtractRanges, type Range, type RangeSet } from '../address/ranges'
import { eachFlow, walkFlow, type FlowBranch } from '../flows/flow'
import type { HopTable } from '../hops/hops'
import { firstFrom } from '../hops/onward'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { packetJson, TCP, UDP, type Packet } from '../packet/packet'
import { allPackets } from '../packet/packet-set'
import { groupHas } from '../rules/rule-book'
import { nextHopOwner } from '../walk/next-hop'
import { finding, type Finding, type Stated } from './finding'
import { endOf, FAMILIES, firewallsOf, fromText, listText, nameOf, passedByRules, passes, rangeTexts, type Check, type Survey } from './survey'
import { subnetSpaceRanges } from './ways'

/** Whether traffic that should pass a firewall passes it, there and back, and whether answers come home. */
export const checkInspection: Check = (survey) => [...roundFirewall(survey), ...waysBack(survey)]

/** Firewalls that a route leads to by itself. */
function firewallOf(model: Model, network: number, { target }: RouteModel): string | null {
  if (target.kind === 'inspect') return model.firewalls[target.index]?.ref ?? null
  if (target.kind !== 'address' && target.kind !== 'interface') return null
  const side = model.firewallAt.get(nextHopOwner(model, network, target).interface)
  return side ? model.firewalls[side.firewall]!.ref : null
}

/** The subnets a firewall itself stands in. */
function homesOf(model: Model, ref: string): RangeSet {
  const firewall = model.firewalls.find((one) => one.ref === ref)
  if (!firewall) return []
  const inline =
    firewall.source.style === 'inline' ? Object.values(firewall.source.endpoints ?? {}).map((one) => model.index.subnets.get(one.subnet) ?? -1) : []
  const subnets = [...inline, ...firewall.interfaces.map((one) => model.interfaces[one.interface]!.subnet)].flatMap((index) => model.subnets[index] ?? [])
  return rangeSetOf(subnets.flatMap((subnet) => subnet.allRanges))
}

/** The subnets that count as one with a subnet: members of its groups. */
function groupMates(survey: Survey, subnet: SubnetModel): SubnetModel[] {
  const { model } = survey
  const network = model.networks[subnet.network]!
  const groups = [...model.estate.groups].filter(
    ([id, group]) =>
      model.index.groups.has(id) &&
      ((group.section === 'subnets' && groupHas(model, id, 'subnets', subnet.id)) ||
        (group.section === 'networks' && groupHas(model, id, 'networks', network.id))),
  )
  if (groups.length === 0) return []
  return survey.subnets.filter(
    (other) =>
      other !== subnet &&
      groups.some(([id, group]) =>
        group.section === 'subnets' ? groupHas(model, id, 'subnets', other.id) : groupHas(model, id, 'networks', model.networks[other.network]!.id),
      ),
  )
}

function roundFirewall(survey: Survey): Finding[] {
  const { model } = survey
  if (model.firewalls.length === 0) return []
  const out = new Map<string, Finding>()
  for (const subnet of survey.subnets) {
    if (subnet.role === 'inspection' || !subnet.up) continue
    const mates = groupMates(survey, subnet)
    const spared = rangeSet([...subnet.allRanges, ...mates.flatMap((mate) => mate.allRanges)].map((prefix) => rangeSetOf([prefix])[0]!))
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        for (const { hop, ...range } of table[family]) {
          if (hop.cause !== null || passes(hop.ways, 'firewalls')) continue
          const [winner] = hop.winners
          if (!winner || (winner.origin === 'table' && winner.target.kind !== 'peering')) continue
          const covered = hop.shadowed.find((route) => route.origin === 'table' && route.state === 'up' && firewallOf(model, subnet.network, route) !== null)
          if (!covered) continue
          const firewall = firewallOf(model, subnet.network, covered)!
          add(survey, out, subnet, table, firewall, subtractRanges([range], rangeSet([...spared, ...homesOf(model, firewall)])), winner)
        }
        for (const mate of mates) byMate(survey, out, subnet, table, mate, spared, family)
      }
    }
  }
  return [...out.values()]
}

/** What a member of the same group sends through a firewall, and this subnet does not. */
function byMate(survey: Survey, out: Map<string, Finding>, subnet: SubnetModel, table: HopTable, mate: SubnetModel, spared: RangeSet, family: 4 | 6): void {
  for (const mates of survey.tablesOf(mate)) {
    const guarded = mates[family].filter(({ hop }) => hop.cause === null && firewallsOf(hop.ways).length > 0)
    if (guarded.length === 0) continue
    const firewall = firewallsOf(guarded[0]!.hop.ways)[0]!
    const wanted = subtractRanges(rangeSet(guarded), rangeSet([...spared, ...homesOf(survey.model, firewall)]))
    const round = survey.meet(subnet, table, family, wanted).filter(({ outcome }) => outcome.cause === null && !passes(outcome.ways, 'firewalls'))
    if (round.length > 0) add(survey, out, subnet, table, firewall, rangeSet(round.flatMap((part) => part.ranges)), null)
  }
}

function add(
  survey: Survey,
  out: Map<string, Finding>,
  subnet: SubnetModel,
  table: HopTable,
  firewall: string,
  ranges: RangeSet,
  winner: RouteModel | null,
): void {
  const { model } = survey
  if (ranges.length === 0) return
  const by =
    winner === null
      ? 'another way'
      : winner.origin === 'learned'
        ? `a learned route`
        : winner.target.kind === 'peering'
          ? 'a peering route'
          : 'the built-in local route'
  const made = finding({
    code: 'leak-round-firewall',
    severity: 'high',
    anchor: subnet.ref,
    objects: [
      subnet.ref,
      ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
      firewall,
      winner?.target.kind === 'peering' ? `peerings/${winner.target.id}` : null,
    ],
    sentence: `Packets from ${subnet.id} to ${listText(rangeTexts(ranges, 4))} go round ${nameOf(firewall)}: ${by} wins there.`,
    part: firewall,
    ranges: rangeTexts(ranges, 30),
    question: { from: fromText(model, subnet, table), to: formatAddress(hostIn(survey, ranges)) },
  })
  const before = out.get(made.fingerprint)
  if (!before) out.set(made.fingerprint, made)
  else {
    const all = [...new Set([...before.evidence.ranges, ...made.evidence.ranges])]
    out.set(made.fingerprint, { ...before, objects: [...new Set([...before.objects, ...made.objects])], evidence: { ...before.evidence, ranges: all } })
  }
}

/** An address in some ranges that a host has, else the lowest of them. */
function hostIn({ model }: Survey, ranges: RangeSet): Address {
  const lowest = ranges[0]!
  for (const range of ranges.slice(0, 8)) {
    const subnet = model.subnets.find(
      (one) =>
        one.ranges.some((prefix) => typeof prefix.address === typeof range.from && prefix.address >= range.from && prefix.address <= range.to) &&
        one.interfaces.length > 0,
    )
    const address = subnet?.interfaces
      .flatMap((index) => model.interfaces[index]!.addresses)
      .find((one) => typeof one === typeof range.from && one >= range.from && one <= range.to)
    if (address !== undefined) return address
  }
  return typeof lowest.from === 'number' && Number(lowest.to) - lowest.from > 8 ? lowest.from + 4 : lowest.from
}

/** A kind of host of a subnet, as an end of flows. */
interface Side {
  readonly subnet: SubnetModel
  readonly table: HopTable
}

/** Where packets are delivered, but their answers are lost, meet no state, or are not looked at. */
function waysBack(survey: Survey): Finding[] {
  const { model } = survey
  const out = new Map<string, Finding>()
  const asked = new Set<string>()
  /** Whether packets were delivered, so that something could be said of their answers. */
  const ask = (from: Side, dst: Address, to: SubnetModel | null, part: string): boolean => {
    const family = typeof dst === 'number' ? 4 : 6
    const src = from.table.kind.sources[family]
    const key = `${classOf(model, from)} ${part}`
    if (src === null || asked.has(key)) return false
    asked.add(key)
    // What no rule lets there has no answer to lose.
    if (!isDelivered(model, from, src, dst)) return false
    for (const protocol of [TCP, UDP]) {
      const packet: Packet = { src, dst, protocol, srcPort: 50000, dstPort: protocol === TCP ? 443 : 53 }
      const { branches } = walkFlow(model, endOf(from.table), packet, allPackets(family), true, true)
      for (const branch of branches) judgeBack(survey, out, from, to, packet, branch)
    }
    return true
  }
  for (const subnet of survey.subnets) {
    if (!subnet.up) continue
    for (const table of survey.tablesOf(subnet)) {
      const from = { subnet, table }
      for (const family of FAMILIES) {
        for (const { outcome, ranges } of survey.toInternet(subnet, table, family)) {
          if (outcome.cause === null) ask(from, ranges[0]!.from, null, `internet ${family} ${outcome.ways.join()}`)
        }
        for (const id of model.index.sites.keys()) {
          const own = rangeSetOf((model.estate.sites.get(id)?.ranges ?? []).map(prefixOf))
          for (const { outcome, ranges } of survey.meet(subnet, table, family, own)) {
            if (outcome.cause === null) ask(from, ranges[0]!.from, null, `sites/${id} ${family} ${outcome.ways.join()}`)
          }
        }
      }
    }
  }
  const index = subnetIndex(survey)
  for (const subnet of survey.subnets) {
    if (!subnet.up) continue
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        const own = table.kind.sources[family]
        if (own === null) continue
        for (const { outcome, ranges } of survey.meet(subnet, table, family, subnetSpaceRanges(model))) {
          if (outcome.cause === null && !passes(outcome.ways, 'firewalls', 'nats')) continue
          const others = subnetsIn(index, ranges)
          if (outcome.cause !== null) {
            // From here packets are lost: one who reaches this subnet from there shows that it has no way back.
            someone: for (const other of others) {
              if (other === subnet) continue
              for (const peer of survey.tablesOf(other)) {
                if (peer.kind.sources[family] === null || !fares(peer, own)) continue
                if (ask({ subnet: other, table: peer }, own, subnet, `${subnet.ref} ${family} ${outcome.cause.code} ${outcome.cause.object}`)) break someone
              }
            }
            continue
          }
          // From here packets are looked at: so are their answers asked for, and the other way round.
          for (const other of others) {
            if (other === subnet) continue
            for (const peer of survey.tablesOf(other)) {
              const far = peer.kind.sources[family]
              if (far === null) continue
              const side = classOf(model, { subnet: other, table: peer })
              ask({ subnet, table }, far, other, `${side} ${family}`)
              if (fares(peer, own)) ask({ subnet: other, table: peer }, own, subnet, `${classOf(model, { subnet, table })} ${family}`)
            }
          }
        }
      }
    }
  }
  return [...out.values()]
}

/** All that tells one kind of host from another here: where it looks up, and which rules it has. */
function classOf(model: Model, { subnet, table }: Side): string {
  const [first] = table.kind.interfaces
  const one = first === undefined ? undefined : model.interfaces[first]
  return `${subnet.network} ${subnet.table} ${subnet.zone} ${subnet.boundary} ${subnet.ruleSets.join()}|${one?.ruleSets.join() ?? '-'} ${one?.localRules ?? -1} ${table.kind.hasPublicAddress} ${table.kind.tags.join()}`
}

/** Whether any packet from a kind of host to an address is delivered, rules and all. */
function isDelivered(model: Model, { table }: Side, src: Address, dst: Address): boolean {
  const ports = { from: 0, to: 65535 }
  const box = { src: { from: src, to: src }, dst: { from: dst, to: dst }, protocol: { from: 0, to: 255 }, srcPort: ports, dstPort: ports }
  // The sender's rules alone are asked first: what they stop needs no walk. Its boundary is asked on the way only.
  const [sender] = table.kind.interfaces
  const bounded = model.subnets[table.kind.place.subnet]!.boundary >= 0
  if (sender !== undefined && !bounded && passedByRules(model, sender, 'out', [box], true).length === 0) return false
  let delivered = false
  eachFlow(model, endOf(table), [box], false, (flow) => (delivered = flow.branches.some((branch) => branch.delivered)))
  return delivered
}

/** Whether routes alone bring packets of a kind of host to an address, as far as the first transit. */
function fares(table: HopTable, address: Address): boolean {
  const ranges = table[typeof address === 'number' ? 4 : 6]
  return ranges[firstFrom(ranges, address)]?.hop.cause === null
}

interface Placed extends Range {
  readonly subnet: SubnetModel
}

const subnetIndex = (survey: Survey): Placed[] =>
  survey.subnets.flatMap((subnet) => subnet.ranges.map((range) => ({ ...rangeSetOf([range])[0]!, subnet }))).sort((a, b) => compareAddresses(a.from, b.from))

function subnetsIn(index: readonly Placed[], ranges: readonly Range[]): SubnetModel[] {
  const out = new Set<SubnetModel>()
  for (const range of ranges) {
    for (let at = firstFrom(index, range.from); at < index.length && compareAddresses(index[at]!.from, range.to) <= 0; at++) out.add(index[at]!.subnet)
  }
  return [...out]
}

const STATE_CAUSES: ReadonlySet<string> = new Set(['no-state', 'return-bypasses-firewall'])

function judgeBack(survey: Survey, out: Map<string, Finding>, { subnet, table }: Side, to: SubnetModel | null, packet: Packet, branch: FlowBranch): void {
  const { model } = survey
  if (!branch.delivered) return
  const farName = to?.id ?? (branch.deliveredAt ? nameOf(branch.deliveredAt.ref) : 'the far side')
  const far = to ? [to.ref, ...(to.table >= 0 ? [model.tables[to.table]!.ref] : [])] : branch.deliveredAt?.ref.includes('/') ? [branch.deliveredAt.ref] : []
  const near = [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : [])]
  const put = (stated: Pick<Stated, 'code' | 'severity' | 'sentence' | 'part' | 'objects' | 'anchor'>): void => {
    const made = finding({
      ...stated,
      packet: packetJson(packet),
      question: {
        from: fromText(model, subnet, table),
        to: formatAddress(packet.dst),
        protocol: packet.protocol === TCP ? 'tcp' : 'udp',
        port: packet.dstPort,
      },
      ranges: [formatAddress(packet.dst)],
    })
    const before = out.get(made.fingerprint)
    out.set(
      made.fingerprint,
      before
        ? {
            ...before,
            objects: [...new Set([...before.objects, ...made.objects])],
            evidence: { ...before.evidence, ranges: [...new Set([...before.evidence.ranges, ...made.evidence.ranges])] },
          }
        : made,
    )
  }
  const { cause } = branch
  if (cause !== null && branch.verdict === 'one-way') {
    const inState = STATE_CAUSES.has(cause.code)
    put({
      code: inState ? 'hole-no-state' : 'hole-no-way-back',
      severity: 'high',
      // What is to change is the way of whoever answers.
      anchor: to?.ref ?? subnet.ref,
      part: `${cause.code} ${cause.object}`,
      objects: [...far, cause.object, ...near].filter((ref) => ref.includes('/')),
      sentence: inState
        ? `Answers from ${farName} to ${subnet.id} ${cause.code === 'no-state' ? 'meet' : 'go round'} ${nameOf(cause.object)}, which ${cause.code === 'no-state' ? 'never saw the flow begin' : 'saw it begin'}: they are lost.`
        : `Packets from ${subnet.id} reach ${farName}, but the answers are lost: ${cause.code} at ${nameOf(cause.object)}.`,
    })
    return
  }
  const there = firewallsOf([branch.way])
  const back = firewallsOf([branch.wayBack ?? []])
  if (branch.wayBack === null || there.length > 0 === back.length > 0) return
  const guard = there[0] ?? back[0]!
  put({
    code: 'leak-one-way-inspected',
    severity: 'high',
    anchor: subnet.ref,
    part: `${guard} ${there.length > 0 ? 'there' : 'back'}`,
    objects: [...near, guard, ...far],
    sentence: `Traffic between ${subnet.id} and ${farName} passes ${nameOf(guard)} on the way ${there.length > 0 ? 'there' : 'back'} only.`,
  })
}
