import { parseAddress, type Address, type Family } from '../address/address'
import { DEFAULT_SOURCE_PORT, hasPorts, protocolNumber, TCP } from '../packet/packet'

/** A question as people and programs write it. */
export interface Question {
  /**
   * An end: `interface:ID`, `interface:ID@ADDRESS`, `subnet:ID`, an address, `internet`, `site:ID`,
   * `party:ID`, `service:ID`, `frontend:ID` (as a destination), `name:FQDN`.
   */
  readonly from: string
  readonly to: string
  readonly protocol?: string | number
  readonly port?: number | null
  readonly sourcePort?: number | null
  /** By which family; without it IPv4 where both ends have both. */
  readonly family?: Family
  readonly continue?: boolean
}

/** Why a question cannot be asked, in words that say what is there instead. */
export interface Refusal {
  readonly code: 'bad-question' | 'unknown-object' | 'ambiguous' | 'no-address' | 'no-common-family'
  readonly message: string
  /** Which part of the question is meant. */
  readonly part: 'from' | 'to' | 'protocol' | 'port' | 'sourcePort' | 'question'
  /** What could be meant instead, ready to be put there. */
  readonly candidates: readonly string[]
}

/** Whether an answer is a refusal. */
export const isRefusal = <T extends object>(value: T | Refusal): value is Refusal =>
  'candidates' in value && 'part' in value

/** A refusal of a question. */
export const refuse = (
  part: Refusal['part'],
  code: Refusal['code'],
  message: string,
  candidates: readonly string[] = [],
): Refusal => ({
  code,
  message,
  part,
  candidates,
})

export const END_KINDS = [
  'interface',
  'subnet',
  'site',
  'party',
  'service',
  'frontend',
  'name',
] as const
export type EndKind = (typeof END_KINDS)[number]

/** An end of a question, read but not yet looked for in an estate. */
export type ReadEnd =
  | { readonly kind: EndKind; readonly id: string; readonly address: Address | null }
  | { readonly kind: 'address'; readonly address: Address }
  | { readonly kind: 'internet' }

/** Reads an end of a question; a refusal where it is malformed. */
export function readEnd(text: string, part: 'from' | 'to'): ReadEnd | Refusal {
  const word = text.trim()
  if (word === 'internet') return { kind: 'internet' }
  const colon = word.indexOf(':')
  const kind = END_KINDS.find((k) => k === word.slice(0, colon))
  if (kind) {
    const rest = word.slice(colon + 1)
    const at = kind === 'interface' ? rest.indexOf('@') : -1
    if (at < 0)
      return rest === ''
        ? refuse(part, 'bad-question', `"${part}" names no ${kind}: write ${kind}:ID`)
        : { kind, id: rest, address: null }
    const address = parseAddress(rest.slice(at + 1))
    if (address === null)
      return refuse(
        part,
        'bad-question',
        `"${part}": "${rest.slice(at + 1)}" after @ is no address`,
      )
    return { kind, id: rest.slice(0, at), address }
  }
  const address = parseAddress(word)
  if (address !== null) return { kind: 'address', address }
  return refuse(
    part,
    'bad-question',
    `"${part}": "${word}" is no end of a question; write an address, internet, or one of ${END_KINDS.map((k) => `${k}:…`).join(', ')}`,
  )
}

export interface Transport {
  readonly protocol: number
  readonly port: number | null
  readonly sourcePort: number | null
}

/** Protocol and ports of a question, with their defaults. */
export function readTransport(question: Question): Transport | Refusal {
  const protocol = question.protocol === undefined ? TCP : protocolNumber(question.protocol)
  if (protocol === null) {
    return refuse(
      'protocol',
      'bad-question',
      `"${question.protocol}" is no protocol; write tcp, udp, icmp, icmpv6 or a number from 0 to 255`,
      ['tcp', 'udp', 'icmp', 'icmpv6'],
    )
  }
  if (!hasPorts(protocol)) {
    if (question.port != null)
      return refuse(
        'port',
        'bad-question',
        `protocol ${question.protocol} has no ports; leave the port out`,
      )
    return { protocol, port: null, sourcePort: null }
  }
  if (question.port == null)
    return refuse(
      'port',
      'bad-question',
      `a ${question.protocol ?? 'tcp'} question needs a destination port`,
    )
  for (const [part, value] of [
    ['port', question.port],
    ['sourcePort', question.sourcePort],
  ] as const) {
    if (value != null && !(Number.isInteger(value) && value >= 0 && value <= 65535))
      return refuse(part, 'bad-question', `${value} is no port; ports go from 0 to 65535`)
  }
  return { protocol, port: question.port, sourcePort: question.sourcePort ?? DEFAULT_SOURCE_PORT }
}
