import { type Address, familyOf, formatAddress } from '../../address/address'
import type { Range } from '../../address/ranges'
import type { Wanted } from '../../hops/behind'
import type { Flow, FlowBranch } from '../../flows/flow'
import type { HopTable } from '../../hops/hops'
import type { Model, SubnetModel } from '../../model/model'
import { TCP, type Packet, packetJson } from '../../packet/packet'
import { placeOfProtocol } from '../../packet/protocols'
import type { Cause } from '../../walk/causes'
import { deliveredFlow } from '../delivered'
import { askedFor } from '../shown'
import { rootOfGoingRound, rootOfLoss } from '../deciding'
import { networksOfObject } from '../network'
import type { Root } from '../root'
import { type Finding, type Stated, finding } from '../finding'
import { type CheckContext, firewallsOf, nameOf, fromText, passes } from '../survey'

/** The protocols without connections: where TCP is lost for want of state, they may pass. */
const WITHOUT_ORDER: Range = { from: placeOfProtocol(TCP) + 1, to: 255 }

/**
 * Evaluates delivered flows and reports what is wrong with their answers. Returns whether anything
 * is.
 */
export function ask(
  survey: CheckContext,
  out: Finding[],
  from: Side,
  dst: Address,
  to: SubnetModel | null,
): boolean {
  const kinds = askOne(survey, out, from, dst, to)
  if (kinds.has('state')) askOne(survey, out, from, dst, to, WITHOUT_ORDER)
  return kinds.size > 0
}

function askOne(
  survey: CheckContext,
  out: Finding[],
  from: Side,
  dst: Address,
  to: SubnetModel | null,
  protocol?: Range,
): ReadonlySet<Judged['kind']> {
  const kinds = new Set<Judged['kind']>()
  const src = from.table.kind.sources[familyOf(dst)]
  // A flow that no rule lets through has no answer.
  // An answer that rules deny does not come to where routes lose it: other packets may.
  const asked = { protocol, wanted: isNotDenied }
  const flow = src === null ? null : deliveredFlow(survey, from.subnet, from.table, src, dst, asked)
  if (flow === null) return kinds
  const { packet, branches } = flow
  for (const branch of branches) {
    for (const judged of judge(branch)) {
      kinds.add(judged.kind)
      reportFinding(survey, out, from, to, packet, branch, judged)
    }
  }
  return kinds
}

/** Whether the answers to what is delivered of a flow are not all denied by rules. */
const isNotDenied = ({ branches }: Flow): boolean =>
  branches.some(({ delivered, cause }) => delivered && !cause?.code.startsWith('denied-'))

/** What is wrong with the answer to a delivered packet. */
export type Judged =
  | { readonly kind: 'lost' | 'state' }
  | { readonly kind: 'one-way'; readonly guard: string; readonly on: 'there' | 'back' }
const STATE_CAUSES: ReadonlySet<string> = new Set(['no-state', 'return-bypasses-firewall'])

/** What is wrong with the answer in one branch of a flow. */
export function judge(branch: FlowBranch): readonly Judged[] {
  const { cause, wayBack } = branch
  if (!branch.delivered) return []
  const isLost = cause !== null && branch.verdict === 'one-way'
  const lost: readonly Judged[] = isLost
    ? [{ kind: STATE_CAUSES.has(cause.code) ? 'state' : 'lost' }]
    : []
  // A TCP flow that a stateful firewall sees in one direction only is lost for that reason: both
  // are reported.
  if (wayBack === null || (isLost && !STATE_CAUSES.has(cause.code))) return lost
  const there = firewallsOf([branch.way])
  const back = firewallsOf([wayBack])
  if (there.length > 0 === back.length > 0) return lost
  return [
    ...lost,
    { kind: 'one-way', guard: there[0] ?? back[0]!, on: there.length > 0 ? 'there' : 'back' },
  ]
}

function reportFinding(
  survey: CheckContext,
  out: Finding[],
  from: Side,
  to: SubnetModel | null,
  packet: Packet,
  branch: FlowBranch,
  judged: Judged,
): void {
  const { model } = survey
  const { subnet, table } = from
  const farName = to?.id ?? (branch.deliveredAt ? nameOf(branch.deliveredAt.ref) : 'the far side')
  const far = to ? withTable(model, to) : [branch.deliveredAt?.ref]
  const near = withTable(model, subnet)
  const root = rootOfAnswer(survey, { from, to, packet, branch, judged })
  const put = (
    stated: Pick<Stated, 'code' | 'severity' | 'sentence' | 'part' | 'objects' | 'anchor'>,
  ): void => {
    out.push(
      finding({
        ...stated,
        root,
        packet: packetJson(packet),
        question: askedFor(model, fromText(model, subnet, table), packet),
        ranges: [formatAddress(packet.dst)],
      }),
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
  // Mostly the routes of the answering side are what has to change.
  const isOwn = to === null || isOfAsker(model, cause.object, subnet, to)
  put({
    code: inState ? 'hole-no-state' : 'hole-no-way-back',
    severity: 'high',
    anchor: isOwn ? subnet.ref : to.ref,
    part: `${cause.code} ${cause.object}`,
    objects: [...far, cause.object, ...near],
    sentence: inState
      ? `Answers from ${farName} to ${subnet.id} ${stateText(branch, cause)}: they are lost.`
      : `Packets from ${subnet.id} reach ${farName}, but the answers are lost: ${cause.code} at ${nameOf(cause.object)}.`,
  })
}

/**
 * Whether what loses an answer belongs to the asker's network and not to that of the one who
 * answers, so that all who answer lose it alike: the asker is told once.
 */
export function isOfAsker(
  model: Model,
  object: string,
  asker: SubnetModel,
  answering: SubnetModel,
): boolean {
  const [own, far] = [asker, answering].map(({ network }) => model.networks[network]!.id)
  const networks = networksOfObject(model.estate, object)
  return networks.includes(own!) && !networks.includes(far!)
}

/** A subnet and the table it looks up in, if it has one. */
const withTable = (model: Model, { ref, table }: SubnetModel): string[] =>
  table >= 0 ? [ref, model.tables[table]!.ref] : [ref]

interface AskedFlow {
  readonly from: Side
  readonly to: SubnetModel | null
  readonly packet: Packet
  readonly branch: FlowBranch
  readonly judged: Judged
}

/**
 * What decides that an answer is lost or goes another way than its request: the routes of the side
 * whose packets miss the firewall, or what loses the answer.
 */
function rootOfAnswer(survey: CheckContext, { from, to, packet, branch, judged }: AskedFlow): Root {
  const { model } = survey
  const there = { model, ...from, hosts: from.table, dst: packet.dst }
  const far = to && farSide(survey, to, branch)
  const back = far && { model, subnet: far.subnet, hosts: far.table, dst: packet.src }
  const door = branch.wayBack?.[0] ?? branch.way.at(-1) ?? from.subnet.ref
  if (judged.kind === 'lost') {
    const cause = branch.cause!
    if (back) return rootOfLoss(cause, back)
    return { kind: 'missing-route', object: cause.object, part: from.subnet.ref }
  }
  const guard = judged.kind === 'one-way' ? judged.guard : branch.cause!.object
  const missesThere = !branch.way.includes(guard)
  if (missesThere) return rootOfGoingRound(there, guard)
  return back ? rootOfGoingRound(back, guard) : { kind: 'missing-route', object: door, part: guard }
}

/** The kind of host that answers: that of the interface the packet was delivered to. */
function farSide(
  survey: CheckContext,
  subnet: SubnetModel,
  { deliveredAt }: FlowBranch,
): Side | null {
  const tables = survey.tablesOf(subnet)
  const at = deliveredAt?.in === 'subnet' ? deliveredAt.place.interface : -1
  const table = tables.find(({ kind }) => kind.interfaces.includes(at)) ?? tables[0]
  return table ? { subnet, table } : null
}

/** How an answer met, or missed, the firewall that keeps the state of its flow. */
export function stateText({ way }: FlowBranch, { code, object }: Cause): string {
  if (code !== 'no-state') return `go round ${nameOf(object)}, which saw it begin`
  if (!way.includes(object)) return `meet ${nameOf(object)}, which never saw the flow begin`
  return `meet ${nameOf(object)} at another endpoint, or on the other side of a translation, than where it saw the flow begin`
}

/** A kind of host of a subnet, as an end of flows. */
export interface Side {
  readonly subnet: SubnetModel
  readonly table: HopTable
}

/** Outcomes after which answers may be lost or go another way. */
export const ASKED_FOR: Wanted = {
  name: 'lost or looked at',
  has: ({ cause, ways }) => cause !== null || passes(ways, 'firewalls', 'nats'),
}

/** Whether a firewall has several endpoints, each of which keeps a state of its own. */
export function hasSeveralEndpoints(model: Model, ref: string): boolean {
  const source = model.firewalls[model.index.firewalls.get(nameOf(ref)) ?? -1]?.source
  return source?.style === 'inline' && Object.keys(source.endpoints ?? {}).length > 1
}
