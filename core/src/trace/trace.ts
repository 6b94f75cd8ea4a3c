import { contextOf } from '../walk/context'
import { formatAddress, type Family } from '../address/address'
import type { Model } from '../model/model'
import { verdictRank } from '../walk/causes'
import { ICMPV6, protocolName, type Packet } from '../packet/packet'
import type { End } from '../walk/state'
import type { FoundEnd } from './ends'
import { addressTexts, nameServersOf } from './names'
import { isRefusal, readTransport, type Question, type Refusal } from './question'
import { type Branch, branch, sorted, withoutEvidence } from './branch'
import { findQuestion, type Asked } from './find-question'
import { walkForward, walkThereAndBack } from './walk-flow'

/** The answer to a question: design part 3.4. */
export interface Trace extends Branch {
  readonly question: {
    readonly from: string
    readonly to: string
    readonly protocol: string | number
    readonly port: number | null
    readonly sourcePort: number | null
    /** Where it was asked by one family alone. */
    readonly family?: Family
  }
  /**
   * All branches where there are several; the trace itself has the fields of the worst, but all
   * they are seen as. Beyond the first 16 they are told without evidence.
   */
  readonly branches: readonly Branch[]
  /** True where there were more branches than are followed one by one. */
  readonly truncated: boolean
  /** For a question by name: who answered for it. */
  readonly name?: NameJson
}

export interface NameJson {
  readonly asked: string
  readonly answeredBy: string | null
  readonly addresses: readonly string[]
  readonly nameServers: readonly { readonly address: string; readonly reachable: boolean }[]
}

export interface TraceOptions {
  readonly evidence?: boolean
}

/**
 * Answers one question, there and back, or says why it cannot be asked. Never throws on any estate.
 */
export function trace(
  model: Model,
  question: Question,
  options: TraceOptions = {},
): Trace | Refusal {
  const transport = readTransport(question)
  if (isRefusal(transport)) return transport
  const asked = findQuestion(model, question, transport.protocol === ICMPV6)
  if (isRefusal(asked)) return asked
  return traceEnds(model, question, transport, asked, options.evidence ?? true)
}

/** Follows one packet from where it begins, as if it had been asked for. */
export function tracePacket(model: Model, from: End, packet: Packet, evidence = true): Trace {
  const { src, dst, protocol, srcPort, dstPort } = packet
  const end: FoundEnd = {
    kind: 'address',
    end: from,
    network: -1,
    addresses: { 4: null, 6: null },
    publicAddress: null,
  }
  const fromText =
    from.in === 'subnet' && from.place.interface >= 0
      ? `interface:${model.interfaces[from.place.interface]!.id}@${formatAddress(src)}`
      : formatAddress(src)
  const question = {
    from: fromText,
    to: formatAddress(dst),
    protocol,
    port: dstPort,
    sourcePort: srcPort,
  }
  return traceEnds(
    model,
    question,
    { protocol, port: dstPort, sourcePort: srcPort },
    { from: end, targets: [{ to: { ...end, end: null }, src, dst }], name: null },
    evidence,
  )
}

/** Of very many branches so many are told with everything that was looked at on the way. */
const MOST_WITH_EVIDENCE = 16

function traceEnds(
  model: Model,
  question: Question,
  transport: {
    readonly protocol: number
    readonly port: number | null
    readonly sourcePort: number | null
  },
  { from, targets, name }: Asked,
  evidence: boolean,
): Trace {
  const context = contextOf({
    model,
    about: 'packets',
    evidence,
    scope: null,
    beyondFaults: question.continue ?? false,
  })
  let truncated = false
  const found = targets.flatMap(({ to, src, dst }): Branch[] => {
    const packet: Packet = {
      src,
      dst,
      protocol: transport.protocol,
      srcPort: transport.sourcePort,
      dstPort: transport.port,
    }
    const walked = walkThereAndBack(context, from.end!, packet, (there) =>
      walkForward(there, from, to, packet),
    )
    truncated ||= walked.truncated
    return walked.flows.flatMap(({ walked: one, answers }) =>
      answers.length === 0
        ? [branch(from, one, null)]
        : answers.map((answer) => branch(from, one, answer)),
    )
  })
  const branches = found.map((one, at) => (at < MOST_WITH_EVIDENCE ? one : withoutEvidence(one)))
  const worst = found.reduce((a, b) => (verdictRank(b.verdict) > verdictRank(a.verdict) ? b : a))
  return {
    question: {
      from: question.from,
      to: question.to,
      protocol: protocolName(transport.protocol),
      port: transport.port,
      sourcePort: transport.sourcePort,
      ...(question.family === undefined ? {} : { family: question.family }),
    },
    ...worst,
    seenAs: sorted(new Set(branches.flatMap((one) => one.seenAs))),
    branches: branches.length > 1 ? branches : [],
    truncated,
    ...(name ? { name: nameJson(model, from, name, context.evidence) } : {}),
  }
}

/**
 * Which name zone, endpoint, service or party answered, and whether the network's own name servers
 * can be reached.
 */
function nameJson(
  model: Model,
  from: FoundEnd,
  { asked, answer }: NonNullable<Asked['name']>,
  evidence: boolean,
): NameJson {
  const servers = evidence && from.end?.in === 'subnet' ? nameServersOf(model, from.network) : []
  return {
    asked,
    answeredBy: answer?.answeredBy ?? null,
    addresses: addressTexts(answer?.addresses ?? []),
    nameServers: servers.map((address) => {
      const to = formatAddress(address)
      const reached = trace(
        model,
        {
          from: from.end!.ref.replace('interfaces/', 'interface:').replace('subnets/', 'subnet:'),
          to,
          protocol: 'udp',
          port: 53,
        },
        { evidence: false },
      )
      return { address: to, reachable: !isRefusal(reached) && reached.verdict === 'works' }
    }),
  }
}
