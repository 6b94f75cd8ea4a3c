import type { Family } from '../address/address'
import type { Range } from '../address/ranges'
import type { Model } from '../model/model'
import { boxOfPacket, boxWith } from '../packet/packet-set'
import { ICMP, ICMPV6, type Packet } from '../packet/packet'
import { findQuestion } from '../trace/find-question'
import {
  isRefusal,
  readTransport,
  type Question,
  type Refusal,
  type Transport,
} from '../trace/question'
import { trace, type Trace } from '../trace/trace'
import { PASSED_KINDS } from '../walk/retrace'
import { eachFlow } from './flow'

/** Destination ports, the first and the last. */
export interface PortSpan {
  readonly from: number
  readonly to: number
}

/** A question for every family that both ends have, and for one port or many. */
export interface CasesQuestion extends Pick<Question, 'from' | 'to' | 'protocol' | 'sourcePort'> {
  readonly ports?: PortSpan | null
}

/** How packets of one family and one span of ports fare, all of them alike. */
export interface Case extends Pick<
  Trace,
  'verdict' | 'cause' | 'seenAs' | 'way' | 'leavesBy' | 'question'
> {
  readonly family: Family
  readonly ports: PortSpan | null
  /** What the answer passes; null where nothing is delivered. */
  readonly wayBack: readonly string[] | null
}

export interface Cases {
  /** IPv4 first, each family in the order of its ports. */
  readonly cases: readonly Case[]
  /** Ports that were not looked at, since the spans before them were too many. */
  readonly more: PortSpan | null
}

/** More spans than this of one question are not told. */
const MOST_SPANS = 128

/**
 * The cases of a question: one for each family that both ends have, and in it one for each span of
 * ports that fare alike. Ports are cut where a walk or a rule decides otherwise, so that one port
 * stands for its span. ICMP over IPv6 is ICMPv6 (RFC 4443). Returns a refusal where neither family
 * can be asked. `isOver` is asked before each further span, and ends the search. Costs a walk with
 * its answers, and a trace, for each span.
 */
export function casesOf(
  model: Model,
  question: CasesQuestion,
  isOver: () => boolean = () => false,
): Cases | Refusal {
  const found = ([4, 6] as const).map((family) =>
    casesOfFamily(model, question, { family, isOver }),
  )
  const answered = found.filter((one): one is Cases => !isRefusal(one))
  if (answered.length > 0)
    return {
      cases: answered.flatMap((one) => one.cases),
      more: answered.find((one) => one.more !== null)?.more ?? null,
    }
  const refusals = found as Refusal[]
  return refusals.find(({ code }) => code !== 'no-common-family') ?? refusalOfBoth(model, question)
}

/** What the question is refused with where no family is named. */
function refusalOfBoth(model: Model, { ports, ...question }: CasesQuestion): Refusal {
  const answer = trace(model, { ...question, port: ports?.from ?? null }, { evidence: false })
  if (isRefusal(answer)) return answer
  throw new Error(`${question.from} > ${question.to} is asked by neither family, yet answered`)
}

function casesOfFamily(
  model: Model,
  { ports = null, ...question }: CasesQuestion,
  { family, isOver }: { readonly family: Family; readonly isOver: () => boolean },
): Cases | Refusal {
  const asked: Question = { ...question, family, port: ports?.from ?? null }
  const read = readTransport(asked)
  if (isRefusal(read)) return read
  const transport = ofFamily(read, family)
  const cut = spansOf(model, asked, { transport, ports, isOver })
  if (isRefusal(cut)) return cut
  const cases: Case[] = []
  for (const [at, span] of cut.spans.entries()) {
    if (at > 0 && isOver()) return { cases, more: { from: span!.from, to: ports!.to } }
    const answer = trace(
      model,
      { ...asked, protocol: transport.protocol, port: span?.from ?? null },
      { evidence: false },
    )
    if (isRefusal(answer)) return answer
    const one = caseOf(family, span, answer)
    const last = cases.at(-1)
    if (last && sameFate(last, one))
      cases[cases.length - 1] = { ...last, ports: joined(last.ports, one.ports) }
    else cases.push(one)
  }
  return { cases, more: cut.more }
}

/** Who asks by ICMP over IPv6 means ICMPv6. */
const ofFamily = (transport: Transport, family: Family): Transport =>
  family === 6 && transport.protocol === ICMP ? { ...transport, protocol: ICMPV6 } : transport

const joined = (a: PortSpan | null, b: PortSpan | null): PortSpan | null =>
  a === null || b === null ? null : { from: a.from, to: b.to }

/** Where the ports of a question are cut: each span is decided alike at every step. */
function spansOf(
  model: Model,
  question: Question,
  {
    transport,
    ports,
    isOver,
  }: {
    readonly transport: Transport
    readonly ports: PortSpan | null
    readonly isOver: () => boolean
  },
): { spans: readonly (PortSpan | null)[]; more: PortSpan | null } | Refusal {
  const asked = findQuestion(model, question, false)
  if (isRefusal(asked)) return asked
  if (ports === null || ports.from === ports.to) return { spans: [ports], more: null }
  const begins = new Set([ports.from])
  /** The first port that some target was not walked for. */
  let unknownFrom = ports.to + 1
  for (const { src, dst } of asked.targets) {
    const packet: Packet = {
      src,
      dst,
      protocol: transport.protocol,
      srcPort: transport.sourcePort,
      dstPort: ports.from,
    }
    const box = boxWith(boxOfPacket(packet), { dstPort: ports as Range })
    // Flows come in the order of their ports.
    eachFlow(model, asked.from.end!, [box], true, (flow) => {
      const from = Number(flow.box.dstPort.from)
      begins.add(from)
      if (begins.size <= MOST_SPANS && (from === ports.from || !isOver())) return false
      unknownFrom = Math.min(unknownFrom, from)
      return true
    })
  }
  const sorted = [...begins].filter((from) => from < unknownFrom).sort((a, b) => a - b)
  return {
    spans: sorted.map((from, at) => ({ from, to: (sorted[at + 1] ?? unknownFrom) - 1 })),
    more: unknownFrom > ports.to ? null : { from: unknownFrom, to: ports.to },
  }
}

function caseOf(family: Family, ports: PortSpan | null, answer: Trace): Case {
  const { verdict, cause, seenAs, way, leavesBy, question, return: back } = answer
  const wayBack =
    back === null
      ? null
      : back.stations.filter(({ kind }) => PASSED_KINDS.has(kind)).map(({ at }) => at)
  return { family, ports, verdict, cause, seenAs, way, leavesBy, wayBack, question }
}

/** Whether ports side by side fare alike, so that they are told as one span. */
function sameFate(a: Case, b: Case): boolean {
  const content = ({ verdict, cause, seenAs, way, leavesBy, wayBack }: Case): string =>
    JSON.stringify([verdict, cause, seenAs, way, leavesBy, wayBack])
  return content(a) === content(b)
}
