import { attributeOf, missingIn, type Root } from '../root'
import { familyOf, type Address } from '../../address/address'
import { rangesContain, type Range } from '../../address/ranges'
import { comesTo, eachFlow, type Flow } from '../../flows/flow'
import type { InterfaceModel, Model, SubnetModel } from '../../model/model'
import { ADMINISTRATION, DATABASES } from '../../packet/known-ports'
import { hasPorts, ICMP, packetJson, protocolName, TCP, type Packet } from '../../packet/packet'
import { allPackets, packetOf, type PacketBox } from '../../packet/packet-set'
import { placeOfProtocol, protocolAt } from '../../packet/protocols'
import { ruleBook } from '../../rules/rule-book'
import { mismatch } from '../../rules/condition'
import { ruleText } from '../../rules/words'
import { doorsTo, portsTo } from '../../exits/doors'
import { outsideSpace, packetsTo, throughRules } from '../../ways-in/from-outside'
import { answersTo, type Outside } from '../holes/answers-outside'
import { lostInside } from '../holes/lost-inside'
import { finding, unique, type Finding, type Severity } from '../finding'
import {
  check,
  FAMILIES,
  firewallsOf,
  listText,
  nameOf,
  questionOf,
  type CheckContext,
} from '../survey'
import { idsOf, presentOf, rangesOf } from '../../model/present'

const one = (value: Address): Range => ({ from: value, to: value })

/**
 * Interfaces that the internet reaches, with their ports, and whether that traffic misses the
 * firewall that the way out passes.
 */
export const checkFromInternet = check(
  'what the internet reaches',
  ({ model }) => presentOf(model, 'interfaces'),
  (survey, index) => {
    const { model } = survey
    const out: Finding[] = []
    const host = model.interfaces[index]!
    const subnet = model.subnets[host.subnet]
    if (!subnet || !host.up || model.firewallAt.has(host.index)) return out
    /** By who publishes the host: the frontend, or nobody but the host and the firewalls before it. */
    const opened = new Map<string, Flow[]>()
    const answers: Finding[] = []
    const lost: Finding[] = []
    let round: Flow | null = null
    const about = { publicSources: true, sources: outsideSpace(model), settles: whoeverAsks }
    const guards = guardsOf(survey, subnet, host.index)
    const look = (flow: Flow): void => {
      const branch = flow.branches.find((one) => comesTo(one, host.index))
      if (!branch) {
        if (lost.length < MOST_LOSSES) lost.push(...lostInside(model, subnet, flow))
        return
      }
      if (answers.length < MOST_ANSWERS) answers.push(...answersFrom(survey, subnet, host, flow))
      // An interface counts as open if it can answer; traffic that only enters may still miss a
      // firewall.
      if (branch.verdict === 'works') {
        const by = branch.way.find((ref) => ref.startsWith('frontends/')) ?? ''
        opened.set(by, [...(opened.get(by) ?? []), flow])
      }
      if (
        guards.length > 0 &&
        round === null &&
        !branch.way.some((ref) => ref.startsWith('firewalls/'))
      )
        round = flow
    }
    for (const door of doorsTo(model, host.index))
      eachFlow(model, outside, throughRules(model, host.index, door), true, look, about)
    for (const port of portsTo(model, host.index))
      eachFlow(model, outside, packetsTo(port), true, look, about)
    out.push(...unique(answers), ...unique(lost))
    if (round !== null) out.push(inRound(subnet, host.ref, guards, round))
    for (const [by, flows] of opened) out.push(openedBy(model, { host, subnet, by, flows }))
    return out
  },
)

/** What the internet reaches of a host, by a frontend or without one. */
interface Opened {
  readonly host: InterfaceModel
  readonly subnet: SubnetModel
  /** The frontend that publishes it; empty for none. */
  readonly by: string
  readonly flows: readonly Flow[]
}

function openedBy(model: Model, { host, subnet, by, flows }: Opened): Finding {
  const ports = openPorts(flows)
  const { packet, worst } = telling(flows)
  const doors = flows.flatMap((flow) => flow.branches.flatMap((branch) => branch.way))
  const sets = setsBefore(model, host).map((index) => ruleBook(model).set(index).ref)
  return finding({
    code: 'open-to-internet',
    severity: worst,
    anchor: host.ref,
    objects: [host.ref, ...sets, subnet.ref, ...doors],
    sentence: `${host.id} can be reached from the internet on ${listText(ports, 4)}${by ? `, by ${nameOf(by)}` : ''}.`,
    part: by,
    root: by ? attributeOf(by, 'publicAddresses') : ruleThatLetsIn(model, host, packet),
    ranges: ports,
    packet: packetJson(packet),
    question: questionOf(packet),
  })
}

/**
 * A port that one source on the internet reaches is open, so answers to the other sources are not
 * walked.
 */
const whoeverAsks = ({ box, worst }: Flow): PacketBox => {
  const { src, srcPort } = allPackets(familyOf(box.src.from))
  return worst.verdict === 'works' ? { ...box, src, srcPort } : box
}

const outside = { in: 'outside', ref: 'internet' } as const

/** So many flows that do not come to a host are told of it. */
const MOST_LOSSES = 8

/** So many faults of answers are told of one host. */
const MOST_ANSWERS = 8

/** Who sends from an address outside: one of the provider's services, else the internet. */
function outsideAt(model: Model, address: Address): Outside {
  const service = idsOf(model, 'services').find((id) =>
    rangesContain(rangesOf(model, 'services', id), address),
  )
  return service === undefined
    ? { ref: 'internet', says: 'the internet' }
    : { ref: `services/${service}`, says: service }
}

/** What is wrong with the answers of a host to the internet, and to services that ask by it. */
function answersFrom(
  survey: CheckContext,
  subnet: SubnetModel,
  host: InterfaceModel,
  flow: Flow,
): Finding[] {
  const table = survey.tablesOf(subnet).find(({ kind }) => kind.interfaces.includes(host.index))
  const who = (): Outside => outsideAt(survey.model, flow.packet.src)
  return table ? answersTo(survey.model, who, { subnet, table }, flow) : []
}

function inRound(
  subnet: SubnetModel,
  host: string,
  guards: readonly string[],
  { packet, branches }: Flow,
): Finding {
  return finding({
    code: 'in-round-firewall',
    severity: 'high',
    anchor: subnet.ref,
    objects: [
      subnet.ref,
      host,
      ...new Set(branches.flatMap((branch) => branch.way)),
      ...guards,
    ].filter((ref) => ref.includes('/')),
    sentence: `Traffic from the internet reaches ${nameOf(host)} in ${subnet.id} without passing ${listText(guards.map(nameOf))}, which its way out passes.`,
    root: {
      kind: 'missing-route',
      object: branches[0]!.way.find((ref) => ref.startsWith('gateways/')) ?? subnet.ref,
      part: guards[0]!,
    },
    packet: packetJson(packet),
    question: questionOf(packet),
  })
}

/** The rule sets before a host, the nearest first. */
function setsBefore(model: Model, { subnet, ruleSets }: InterfaceModel): number[] {
  const home = model.subnets[subnet]!
  return [...ruleSets, ...home.ruleSets, ...(home.boundary >= 0 ? [home.boundary] : [])]
}

/** The rule nearest to a host that lets a packet in; that it has none, where none stands before. */
function ruleThatLetsIn(model: Model, host: InterfaceModel, packet: Packet): Root {
  const family = familyOf(packet.dst)
  const dst = host.addresses.find((one) => familyOf(one) === family) ?? packet.dst
  const book = ruleBook(model)
  for (const index of setsBefore(model, host)) {
    const { ref, rules } = book.set(index)
    const one = rules.find(
      (rule) =>
        rule.direction === 'in' && rule.allow && mismatch(rule, { ...packet, dst }) === null,
    )
    const written = one && model.estate.ruleSets.get(nameOf(ref))?.rules?.[one.entry]
    if (written) return { kind: 'rule', object: ref, part: ruleText(written) }
  }
  return missingIn(host.ref, 'ruleSets')
}

/** The firewalls that a host’s way to the internet passes. */
function guardsOf(survey: CheckContext, subnet: SubnetModel, index: number): string[] {
  const table = survey.tablesOf(subnet).find(({ kind }) => kind.interfaces.includes(index))
  if (!table) return []
  const parts = FAMILIES.flatMap((family) => survey.toInternet(subnet, table, family)).filter(
    ({ outcome }) => outcome.cause === null,
  )
  return [...new Set(parts.flatMap(({ outcome }) => firewallsOf(outcome.ways)))]
}

/** What is open, as `tcp 443` or `every protocol`. */
function openPorts(flows: readonly Flow[]): string[] {
  const out = new Set<string>()
  for (const { box } of flows) {
    if (box.protocol.from === 0 && box.protocol.to === 255) return ['every protocol']
    for (
      let place = Number(box.protocol.from);
      place <= Number(box.protocol.to) && out.size < 24;
      place++
    ) {
      const protocol = protocolAt(place)
      if (!hasPorts(protocol)) out.add(`${protocolName(protocol)}`)
      else {
        const { from, to } = box.dstPort
        out.add(
          `${protocolName(protocol)} ${from === 0 && to === 65535 ? 'every port' : from === to ? from : `${from}-${to}`}`,
        )
      }
    }
  }
  return [...out].sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
}

/** The packet that shows the most severe opening, with its severity. */
function telling(flows: readonly Flow[]): { packet: Flow['packet']; worst: Severity } {
  const has = (ports: ReadonlySet<number>) => (flow: Flow) =>
    flow.box.protocol.from <= placeOfProtocol(TCP) &&
    [...ports].some((port) => flow.box.dstPort.from <= port && port <= flow.box.dstPort.to)
  const admin = flows.find(has(ADMINISTRATION))
  const data = flows.find(has(DATABASES))
  // The box may hold sources that are not the internet's; the packet's own is.
  const at = (flow: Flow, ports: ReadonlySet<number>): Flow['packet'] =>
    packetOf(
      { ...flow.box, src: one(flow.packet.src) },
      {
        srcPort: 50000,
        dstPort:
          [...ports].find((port) => flow.box.dstPort.from <= port && port <= flow.box.dstPort.to) ??
          443,
      },
    )
  if (admin) return { packet: at(admin, ADMINISTRATION), worst: 'critical' }
  if (data) return { packet: at(data, DATABASES), worst: 'critical' }
  const pings = flows.every((flow) => flow.box.protocol.from >= placeOfProtocol(ICMP))
  return { packet: flows[0]!.packet, worst: pings ? 'note' : 'medium' }
}
