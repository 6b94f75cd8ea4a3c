import { formatAddress } from '../../address/address'
import type { Flow, FlowBranch } from '../../flows/flow'
import type { Model } from '../../model/model'
import { packetJson } from '../../packet/packet'
import { ruleBook } from '../../rules/rule-book'
import { rootOfGoingRound, rootOfLoss } from '../deciding'
import { finding, type Finding, type Stated } from '../finding'
import type { Root } from '../root'
import { nameOf, questionOf } from '../survey'
import { judge, stateText, type Judged, type Side } from './ask-for-answers'

/** Who sends from outside: as an end of the flow, and as it is called. */
export interface Outside {
  readonly ref: string
  readonly says: string
}

/**
 * What is wrong with the answers to a flow from outside that reaches a host, by whatever door: its
 * own public address, a port that a firewall or a frontend publishes, a site's line. Who sends is
 * asked only where there is something to tell.
 */
export function answersTo(model: Model, who: () => Outside, near: Side, flow: Flow): Finding[] {
  return flow.branches.flatMap((branch) =>
    isStoppedByList(model, branch)
      ? []
      : judge(branch).map((judged) =>
          toldAnswer(model, { who: who(), near, flow, branch, judged }),
        ),
  )
}

/** Answers that a list without state stops are told as `hole-ephemeral`. */
function isStoppedByList(model: Model, { cause }: FlowBranch): boolean {
  if (!cause?.code.startsWith('denied-') || !cause.object.startsWith('ruleSets/')) return false
  const book = ruleBook(model)
  return !book.isStateful(model.index.ruleSets.get(nameOf(cause.object))!)
}

interface AskedAnswer {
  readonly who: Outside
  readonly near: Side
  readonly flow: Flow
  readonly branch: FlowBranch
  readonly judged: Judged
}

function toldAnswer(model: Model, asked: AskedAnswer): Finding {
  const { who, near, flow, branch, judged } = asked
  const { subnet } = near
  const { packet } = flow
  const host = nameOf(branch.deliveredAt?.ref ?? subnet.ref)
  const cause = branch.cause
  const said: Pick<Stated, 'code' | 'sentence' | 'part'> =
    judged.kind === 'one-way'
      ? {
          code: 'leak-one-way-inspected',
          part: `${who.ref} ${judged.guard} ${judged.on}`,
          sentence: `Traffic between ${who.says} and ${host} passes ${nameOf(judged.guard)} on the way ${judged.on} only.`,
        }
      : judged.kind === 'state'
        ? {
            code: 'hole-no-state',
            part: `${who.ref} ${cause!.code} ${cause!.object}`,
            sentence: `Answers from ${host} to ${who.says} ${stateText(branch, cause!)}: they are lost.`,
          }
        : {
            code: 'hole-no-way-back',
            part: `${who.ref} ${cause!.code} ${cause!.object}`,
            sentence: `Packets from ${who.says} reach ${host}, but the answers are lost: ${cause!.code} at ${nameOf(cause!.object)}.`,
          }
  return finding({
    ...said,
    severity: 'high',
    anchor: subnet.ref,
    objects: [
      subnet.ref,
      model.tables[subnet.table]?.ref,
      branch.deliveredAt?.ref,
      cause?.object,
      ...branch.way,
      who.ref,
    ],
    root: rootOf(model, asked),
    packet: packetJson(packet),
    question: questionOf(packet),
    ranges: [formatAddress(packet.src)],
  })
}

/** What decides: what loses the answer, or the routes of the side whose packets miss the firewall. */
function rootOf(model: Model, { near, flow, branch, judged }: AskedAnswer): Root {
  const back = { model, subnet: near.subnet, hosts: near.table, dst: flow.packet.src }
  if (judged.kind === 'lost') return rootOfLoss(branch.cause!, back)
  const guard = judged.kind === 'one-way' ? judged.guard : branch.cause!.object
  return branch.way.includes(guard)
    ? rootOfGoingRound(back, guard)
    : { kind: 'missing-route', object: branch.way[0] ?? near.subnet.ref, part: guard }
}
