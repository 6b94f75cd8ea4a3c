import { compareAddresses, formatAddress, type Address, type Family } from '../address/address'
import { prefixOf } from '../address/prefix'
import { firstFrom, rangeSet, rangeSetOf, rangesContain, type Range, type RangeSet } from '../address/ranges'
import { walkFlow, type FlowBranch } from '../flows/flow'
import type { Wanted } from '../hops/behind'
import { hopAt, sendingKey, type HopTable } from '../hops/hops'
import { identity, type Outcome } from '../hops/onward'
import type { Model, SubnetModel } from '../model/model'
import { packetJson, protocolName, TCP, type Packet } from '../packet/packet'
import { allPackets } from '../packet/packet-set'
import { placeOfProtocol } from '../packet/protocols'
import { passing } from '../rules/passing'
import { deliveredFlow } from './delivered'
import { finding, type Finding, type Stated } from './finding'
import { endOf, FAMILIES, firewallsOf, fromText, nameOf, passes, type Check, type Survey } from './survey'
import { subnetSpaceRanges } from './ways'

/** A kind of host of a subnet, as an end of flows. */
interface Side {
  readonly subnet: SubnetModel
  readonly table: HopTable
}

/** Where packets are delivered, but their answers are lost, meet no state, or are not looked at. */
export const checkAnswers: Check = (survey) => {
  const out = new Map<string, Finding>()
  fromOutside(survey, out)
  const places = subnetIndex(survey)
  const looked = new Set<string>()
  for (const subnet of survey.subnets) {
    if (!subnet.up) continue
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) inside(survey, out, places, looked, { subnet, table }, family)
    }
  }
  return [...out.values()]
}

/** Answers from the internet and from sites. Routes settle most of it, for all hosts of a kind at once. */
function fromOutside(survey: Survey, out: Map<string, Finding>): void {
  const { model } = survey
  const sites = [...model.index.sites.keys()].map((id) => rangeSetOf((model.estate.sites.get(id)?.ranges ?? []).map(prefixOf)))
  const settled = new Map<string, { sources: Range; sound: boolean }[]>()
  const isSound = (from: Side, src: Address, dst: Address, outcome: Outcome): boolean => {
    // On the same way out answers come back the same way, whichever table led there.
    const key = `${sendingKey(model, from.subnet, from.table.kind)} ${identity(outcome)} ${familyOf(dst)}`
    let known = settled.get(key)
    if (!known) settled.set(key, (known = []))
    const found = known.find(({ sources }) => sources.from <= src && src <= sources.to)
    if (found) return found.sound
    const flow = walkFlow(model, endOf(from.table), probe(src, dst), allPackets(familyOf(dst)), true, { ignoresRules: true, home: from.subnet.network })
    const sound = flow.branches.every((branch) => judge(branch).length === 0)
    known.push({ sources: flow.box.src, sound })
    return sound
  }
  for (const subnet of survey.subnets) {
    if (!subnet.up) continue
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        const src = table.kind.sources[family]
        if (src === null) continue
        const from = { subnet, table }
        const parts = [survey.toInternet(subnet, table, family), ...sites.map((own) => survey.meet(subnet, table, family, own))].flat()
        for (const { outcome, ranges } of parts) {
          if (outcome.cause !== null) continue
          const dst = ranges[0]!.from
          if (!isSound(from, src, dst, outcome)) ask(survey, out, from, dst, null)
        }
      }
    }
  }
}

const familyOf = (address: Address): Family => (typeof address === 'number' ? 4 : 6)
const probe = (src: Address, dst: Address): Packet => ({ src, dst, protocol: TCP, srcPort: 50000, dstPort: 443 })

/** Ways on which answers may be lost or go another way. */
const ASKED_FOR: Wanted = { name: 'lost or looked at', has: ({ cause, ways }) => cause !== null || passes(ways, 'firewalls', 'nats') }

/** Answers between subnets: to where one has no way back, and where a firewall or translator is on the way. */
function inside(survey: Survey, out: Map<string, Finding>, places: readonly Placed[], looked: Set<string>, near: Side, family: Family): void {
  const { model } = survey
  const { subnet, table } = near
  const own = table.kind.sources[family]
  if (own === null) return
  let taken: RangeSet | undefined
  for (const { outcome, ranges } of survey.meet(subnet, table, family, subnetSpaceRanges(model), ASKED_FOR)) {
    if (outcome.cause !== null) {
      // From here packets are lost: one who reaches this subnet from there shows that it has no way back.
      taken ??= takenFrom(model, near, own)
      if (taken.length > 0) someone(survey, out, places, near, own, taken, ranges)
    } else {
      // From here packets are looked at: so are their answers asked for, and the other way round.
      for (const other of subnetsIn(places, ranges)) {
        if (other === subnet) continue
        for (const peer of survey.tablesOf(other)) {
          const far = peer.kind.sources[family]
          if (far !== null) both(survey, out, looked, near, { subnet: other, table: peer }, own, far)
        }
      }
    }
  }
}

/** Two kinds of host with something on the way from the first to the second, asked in both directions. */
function both(survey: Survey, out: Map<string, Finding>, looked: Set<string>, near: Side, far: Side, own: Address, other: Address): void {
  const { model, memo } = survey
  const family = familyOf(own)
  const key = `${classOf(model, near)} ${classOf(model, far)} ${family}`
  if (looked.has(key)) return
  looked.add(key)
  const there = hopAt(model, near.subnet, near.table, other, memo)
  const back = hopAt(model, far.subnet, far.table, own, memo)
  // One way each, nothing translated, the same firewalls: answers fare as they should.
  const plain = there?.cause === null && back?.cause === null && there.seenAs.length + back.seenAs.length === 0
  if (plain && there.ways.length === 1 && back.ways.length === 1 && sameMembers(firewallsOf(there.ways), firewallsOf(back.ways))) return
  ask(survey, out, near, other, far.subnet)
  if (back?.cause === null) ask(survey, out, far, own, near.subnet)
}

const sameMembers = (a: readonly string[], b: readonly string[]): boolean => a.length === b.length && a.every((one) => b.includes(one))

/** Looks for one who reaches a host from some places, and is not answered. */
function someone(
  survey: Survey,
  out: Map<string, Finding>,
  places: readonly Placed[],
  near: Side,
  own: Address,
  taken: RangeSet,
  ranges: readonly Range[],
): void {
  const { model, memo } = survey
  for (const other of subnetsIn(places, ranges)) {
    if (other === near.subnet) continue
    for (const table of survey.tablesOf(other)) {
      const far = table.kind.sources[familyOf(own)]
      if (far === null || !rangesContain(taken, far)) continue
      const there = hopAt(model, other, table, own, memo)
      // What is translated on the way there has its answer come back to the translator.
      if (there?.cause !== null || there.seenAs.length > 0) continue
      if (ask(survey, out, { subnet: other, table }, own, near.subnet)) return
    }
  }
}

/** The sources whose packets the rules of a host let in. */
function takenFrom(model: Model, { table }: Side, own: Address): RangeSet {
  const all = { ...allPackets(familyOf(own)), dst: { from: own, to: own } }
  return rangeSet(passing(model, { direction: 'in', place: table.kind.place, crosses: false }, [all]).map((box) => box.src))
}

/** All that tells one kind of host from another here: where it looks up, and which rules it has. */
function classOf(model: Model, { subnet, table }: Side): string {
  const [first] = table.kind.interfaces
  const one = first === undefined ? undefined : model.interfaces[first]
  return `${subnet.network} ${subnet.table} ${subnet.zone} ${subnet.boundary} ${subnet.ruleSets.join()}|${one?.ruleSets.join() ?? '-'} ${one?.localRules ?? -1} ${table.kind.hasPublicAddress} ${table.kind.tags.join()}`
}

interface Placed extends Range {
  readonly subnet: SubnetModel
}

const subnetIndex = (survey: Survey): Placed[] =>
  survey.subnets.flatMap((subnet) => subnet.ranges.map((range) => ({ ...rangeSetOf([range])[0]!, subnet }))).sort((a, b) => compareAddresses(a.from, b.from))

/** The subnets that have something of some ranges, one after the other: whoever found one looks no further. */
function* subnetsIn(index: readonly Placed[], ranges: readonly Range[]): Generator<SubnetModel> {
  const seen = new Set<SubnetModel>()
  for (const range of ranges) {
    for (let at = firstFrom(index, range.from); at < index.length && compareAddresses(index[at]!.from, range.to) <= 0; at++) {
      const { subnet } = index[at]!
      if (!seen.has(subnet)) yield subnet
      seen.add(subnet)
    }
  }
}

/** What no firewall keeps for the order of its packets: where TCP is lost for want of state, it may fare otherwise. */
const WITHOUT_ORDER: Range = { from: placeOfProtocol(TCP) + 1, to: 255 }

/** Asks for flows that are delivered, and says what is wrong with their answers; whether anything is. */
function ask(survey: Survey, out: Map<string, Finding>, from: Side, dst: Address, to: SubnetModel | null): boolean {
  const kinds = askOne(survey, out, from, dst, to)
  if (kinds.has('state')) askOne(survey, out, from, dst, to, WITHOUT_ORDER)
  return kinds.size > 0
}

function askOne(survey: Survey, out: Map<string, Finding>, from: Side, dst: Address, to: SubnetModel | null, protocol?: Range): ReadonlySet<Judged['kind']> {
  const { model } = survey
  const kinds = new Set<Judged['kind']>()
  const src = from.table.kind.sources[familyOf(dst)]
  // What no rule lets there has no answer to lose.
  const flow = src === null ? null : deliveredFlow(survey, from.subnet, from.table, src, dst, protocol)
  if (flow === null) return kinds
  const { packet } = flow
  // Rules that stop the answer hide where it would have gone.
  const hidden = flow.branches.some((branch) => branch.delivered && branch.cause?.code.startsWith('denied-'))
  const { branches } = hidden ? walkFlow(model, endOf(from.table), packet, allPackets(familyOf(dst)), true, { ignoresRules: true }) : flow
  for (const branch of branches) {
    for (const judged of judge(branch)) {
      kinds.add(judged.kind)
      state(survey, out, from, to, packet, branch, judged)
    }
  }
  return kinds
}

/** What is wrong with the answer to a delivered packet. */
type Judged = { readonly kind: 'lost' | 'state' } | { readonly kind: 'one-way'; readonly guard: string; readonly on: 'there' | 'back' }

const STATE_CAUSES: ReadonlySet<string> = new Set(['no-state', 'return-bypasses-firewall'])

function judge(branch: FlowBranch): readonly Judged[] {
  const { cause, wayBack } = branch
  if (!branch.delivered) return []
  const isLost = cause !== null && branch.verdict === 'one-way'
  const lost: readonly Judged[] = isLost ? [{ kind: STATE_CAUSES.has(cause.code) ? 'state' : 'lost' }] : []
  // Over TCP what a firewall sees in one direction only is lost for that very reason: so it is both.
  if (wayBack === null || (isLost && !STATE_CAUSES.has(cause.code))) return lost
  const there = firewallsOf([branch.way])
  const back = firewallsOf([wayBack])
  if (there.length > 0 === back.length > 0) return lost
  return [...lost, { kind: 'one-way', guard: there[0] ?? back[0]!, on: there.length > 0 ? 'there' : 'back' }]
}

function state(
  { model }: Survey,
  out: Map<string, Finding>,
  { subnet, table }: Side,
  to: SubnetModel | null,
  packet: Packet,
  branch: FlowBranch,
  judged: Judged,
): void {
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
        protocol: protocolName(packet.protocol),
        ...(packet.dstPort === null ? { port: null } : { port: packet.dstPort }),
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
  if (judged.kind === 'one-way') {
    const { guard, on } = judged
    put({
      code: 'leak-one-way-inspected',
      severity: 'high',
      anchor: subnet.ref,
      part: `${guard} ${on}`,
      objects: [...near, guard, ...far],
      sentence: `Traffic between ${subnet.id} and ${farName} passes ${nameOf(guard)} on the way ${on} only.`,
    })
    return
  }
  const cause = branch.cause!
  const inState = judged.kind === 'state'
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
}
