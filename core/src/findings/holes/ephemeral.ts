import { derived, sameItems } from '../../incremental/derived'
import { formatAddress, type Address, type Family } from '../../address/address'
import { eachFlow } from '../../flows/flow'
import { outcomeAt, type HopTable } from '../../hops/hops'
import type { Model, SubnetModel } from '../../model/model'
import { packetJson, TCP } from '../../packet/packet'
import { allPackets, type PacketBox } from '../../packet/packet-set'
import { placeOfProtocol } from '../../packet/protocols'
import { passing } from '../../rules/passing'
import { ruleBook, type SetModel } from '../../rules/rule-book'
import { stopsAnAnswer, unansweredOf } from '../../rules/unanswered'
import type { Direction } from '../../rules/condition'
import type { End } from '../../walk/state'
import { doorsTo } from '../../exits/doors'
import { finding, unique, type Finding } from '../finding'
import { modelOf, checkSubnets, endOf, FAMILIES, nameOf, type CheckContext } from '../survey'
import { presentOf } from '../../model/present'

const one = (value: Address): { from: Address; to: Address } => ({ from: value, to: value })
/** TCP requests from the ports that clients take (RFC 6056) to the internet. */
const requests = (src: Address, dst: Address): PacketBox => ({
  ...allPackets(typeof src === 'number' ? 4 : 6),
  src: one(src),
  dst: one(dst),
  protocol: one(placeOfProtocol(TCP)) as PacketBox['protocol'],
  srcPort: { from: 1024, to: 65535 },
})

/**
 * Requests that stateless rules let through, whose answers they stop for some or all client ports.
 */
export const checkEphemeral = checkSubnets(
  'answers that stateless rules stop',
  (survey, subnet) => {
    const { model } = survey
    const troubled = setsBlockingReplies(model)
    if (troubled.size === 0) return []
    const out: Finding[] = []
    for (const table of survey.tablesOf(subnet)) {
      const sets = setsOf(model, subnet, table).filter((index) => troubled.has(index))
      for (const family of FAMILIES) {
        if (sets.length > 0) out.push(...guarded(survey, subnet, table, family, sets))
        else if (passesTrouble(survey, subnet, table, family, troubled))
          out.push(...beyond(survey, subnet, table, family))
      }
    }
    return unique(out)
  },
)

/** The stateless sets that stop some answer to what they let through. */
const setsBlockingReplies = derived(
  (model: Model): ReadonlySet<number> =>
    new Set(presentOf(model, 'ruleSets').filter((index) => stopsAnswers(model, index))),
  { same: sameItems },
)

const stopsAnswers = derived(isTroubled, { same: Object.is })

function isTroubled(model: Model, index: number): boolean {
  const book = ruleBook(model)
  // Most keep state: they need not be compiled to say so.
  if (book.isStateful(index)) return false
  const set = book.set(index)
  return FAMILIES.some((family) => stopsAnAnswer(set, family))
}

/** Every rule set that is asked of a kind of host. */
function setsOf(model: Model, subnet: SubnetModel, table: HopTable): number[] {
  const [first] = table.kind.interfaces
  const host = first === undefined ? undefined : model.interfaces[first]
  return [
    ...new Set([
      subnet.boundary,
      ...subnet.ruleSets,
      ...(host ? [...host.ruleSets, host.localRules] : []),
    ]),
  ].filter((index) => index >= 0)
}

/**
 * Whether a way to the internet crosses the edge of a subnet with such rules: that of a translator
 * or a firewall.
 */
function passesTrouble(
  { model, toInternet: meet }: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  troubled: ReadonlySet<number>,
): boolean {
  const homes = (ref: string): readonly number[] => {
    const id = nameOf(ref)
    if (ref.startsWith('nats/')) return [model.nats[model.index.nats.get(id) ?? -1]?.subnet ?? -1]
    if (!ref.startsWith('firewalls/')) return []
    return (model.firewalls[model.index.firewalls.get(id) ?? -1]?.interfaces ?? []).map(
      (side) => model.interfaces[side.interface]!.subnet,
    )
  }
  return meet(subnet, table, family).some(
    ({ outcome }) =>
      outcome.cause === null &&
      outcome.ways.some((way) =>
        way.some((ref) =>
          homes(ref).some((home) => troubled.has(model.subnets[home]?.boundary ?? -1)),
        ),
      ),
  )
}

/** A kind of host by the number of its subnet and its place there, with its addresses. */
interface Other {
  readonly subnet: number
  readonly kind: number
  readonly sources: HopTable['kind']['sources']
}

const sameOthers = (a: readonly Other[], b: readonly Other[]): boolean =>
  a.length === b.length && a.every((one, at) => sameOther(one, b[at]!))

const sameOther = (a: Other, b: Other): boolean =>
  a.subnet === b.subnet &&
  a.kind === b.kind &&
  a.sources[4] === b.sources[4] &&
  a.sources[6] === b.sources[6]

/** One kind of host for each table and set of rules there is. */
const classes = derived(
  (survey: CheckContext): readonly Other[] =>
    presentOf(survey.model, 'networks').flatMap((network) => classesIn(survey, network)),
  { same: sameOthers, on: modelOf },
)

const classesIn = derived(
  (survey: CheckContext, network: number): readonly Other[] => {
    const found = new Map<string, Other>()
    for (const index of survey.model.networks[network]!.subnets) {
      const subnet = survey.model.subnets[index]!
      for (const [at, table] of survey.tablesOf(subnet).entries()) {
        const key = `${subnet.table} ${setsOf(survey.model, subnet, table).join()} ${table.kind.hasPublicAddress}`
        if (!found.has(key))
          found.set(key, { subnet: subnet.index, kind: at, sources: table.kind.sources })
      }
    }
    return [...found.values()]
  },
  { same: sameOthers, on: modelOf },
)

/**
 * What fails of a kind of host that has such rules itself; for each set until one request shows it.
 */
function guarded(
  survey: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  sets: readonly number[],
): Finding[] {
  const { model } = survey
  const book = ruleBook(model)
  const own = table.kind.sources[family]
  if (own === null) return []
  return sets.flatMap((index) => {
    const set = book.set(index)
    const internet = somewhere(survey, family)
    const asked = letThrough(
      model,
      { table, crosses: false },
      'out',
      unansweredOf(set, 'out', { near: own, far: internet }),
    )
    const found = [
      ...ask(survey, endOf(table), asked, subnet, 'to the internet'),
      ...fromInternet(survey, subnet, table, family, set),
    ]
    for (const { subnet: index, kind, sources } of classes(survey)) {
      if (found.some((each) => each.anchor === set.ref)) break
      const far = sources[family]
      if (index === subnet.index || far === null) continue
      const other = model.subnets[index]!
      const there = survey.tablesOf(other)[kind]!
      const pair = { near: own, far }
      const [here, beside] = [
        { subnet, table, address: own, crosses: false },
        { subnet: other, table: there, address: far, crosses: true },
      ]
      const sent = whatArrives(survey, here, beside, () => unansweredOf(set, 'out', pair))
      found.push(...ask(survey, endOf(table), sent, subnet, `to ${other.id}`))
      const taken = whatArrives(survey, beside, here, () => unansweredOf(set, 'in', pair))
      found.push(...ask(survey, endOf(there), taken, subnet, `from ${other.id}`))
    }
    return found
  })
}

/** A kind of host at one end of requests. */
interface RequestEnd {
  readonly subnet: SubnetModel
  readonly table: HopTable
  readonly address: Address
  /** Whether the edge of its subnet is asked here; else it is for the walk. */
  readonly crosses: boolean
}

/** What of some requests all the rules of a kind of host let through. */
const letThrough = (
  model: Model,
  { table: { kind }, crosses }: Pick<RequestEnd, 'table' | 'crosses'>,
  direction: Direction,
  boxes: readonly PacketBox[],
): readonly PacketBox[] =>
  boxes.length === 0 ? boxes : passing(model, { direction, place: kind.place, crosses }, boxes)

/**
 * What of some requests routes bring to an address, and the rules at both ends let pass; all that
 * the sender lets pass where what arrives is for the walk to say.
 */
function whatArrives(
  { model, memo }: CheckContext,
  from: RequestEnd,
  to: RequestEnd,
  requested: () => readonly PacketBox[],
): readonly PacketBox[] {
  const hop = outcomeAt(model, from.subnet, from.table, to.address, memo)
  if (hop === null || (hop.cause !== null && hop.ways.length === 1)) return []
  const sent = letThrough(model, from, 'out', requested())
  return hop.seenAs.length === 0 ? letThrough(model, to, 'in', sent) : sent
}

const somewhere = (survey: CheckContext, family: Family): Address =>
  survey.model.internetSpace.find((range) => (typeof range.from === 'number') === (family === 4))!
    .from

/** What fails on the way to the internet beyond the rules of a host, at those it passes. */
function beyond(
  survey: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
): Finding[] {
  const own = table.kind.sources[family]
  if (own === null) return []
  const sent = [requests(own, somewhere(survey, family))]
  return ask(survey, endOf(table), sent, subnet, 'to the internet')
}

function fromInternet(
  survey: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  set: SetModel,
): Finding[] {
  const [host] = table.kind.interfaces
  const own = table.kind.sources[family]
  if (host === undefined || own === null) return []
  const far = somewhere(survey, family)
  return doorsTo(survey.model, host)
    .filter((door) => typeof door === typeof own)
    .flatMap((door) => {
      const taken = unansweredOf(set, 'in', { near: own, far }).map((box) => ({
        ...box,
        dst: one(door),
      }))
      return ask(survey, { in: 'outside', ref: 'internet' }, taken, subnet, 'from the internet')
    })
}

/** Walks some requests there and back, until an answer is stopped by a stateless set. */
function ask(
  { model }: CheckContext,
  from: End,
  boxes: readonly PacketBox[],
  subnet: SubnetModel,
  text: string,
): Finding[] {
  const book = ruleBook(model)
  const found: Finding[] = []
  eachFlow(model, from, boxes, true, (flow) => {
    for (const branch of flow.branches) {
      const { cause } = branch
      if (
        !branch.delivered ||
        cause?.direction !== 'return' ||
        !cause.code.startsWith('denied-') ||
        !cause.object.startsWith('ruleSets/')
      )
        continue
      if (book.set(model.index.ruleSets.get(nameOf(cause.object))!).stateful) continue
      const { from: low, to: high } = flow.box.srcPort
      found.push(
        finding({
          code: 'hole-ephemeral',
          severity: 'high',
          anchor: cause.object,
          objects: [cause.object, subnet.ref],
          sentence: `${nameOf(cause.object)} lets requests ${text} through, but not their answers to ports ${low === 1024 && high === 65535 ? '1024-65535' : `${low}-${high}, a part of 1024-65535`}.`,
          root: { kind: 'missing-rule', object: cause.object, part: 'answers' },
          packet: packetJson(flow.packet),
          question: {
            from:
              from.in === 'subnet' && from.place.interface >= 0
                ? `interface:${model.interfaces[from.place.interface]!.id}`
                : formatAddress(flow.packet.src),
            to: formatAddress(flow.packet.dst),
            protocol: 'tcp',
            port: flow.packet.dstPort,
            sourcePort: flow.packet.srcPort,
          },
          facts: [`ports ${low}-${high}`],
        }),
      )
    }
    return found.length > 0
  })
  return found
}
