import type { Expectation } from '@salt-trail/core'
import { stringify } from 'yaml'
import { resolveEnd, type EndChoice } from '~/questions/question-text'

export type Must = Expectation['must']

/** What each kind of expectation means, and what it names besides the two ends. */
export const MUSTS: readonly {
  readonly must: Must
  readonly means: string
  readonly names: 'by' | 'as' | null
}[] = [
  { must: 'never-reach', means: 'no such packet is delivered', names: null },
  { must: 'reach', means: 'every such packet is delivered and answered', names: null },
  {
    must: 'pass',
    means: 'every delivered packet goes through one of these firewalls, there and back',
    names: 'by',
  },
  { must: 'leave-by', means: 'every packet that leaves does so by one of these', names: 'by' },
  { must: 'appear-as', means: 'the far side sees only these addresses', names: 'as' },
  { must: 'only-from', means: 'nobody but the sources named is delivered', names: null },
]

/** An expectation as the small form holds it: words, with commas between. */
export interface Written {
  readonly id: string
  readonly must: Must
  readonly from: string
  readonly to: string
  readonly except: string
  /** `tcp 443, 8443`, or nothing for every packet. */
  readonly over: string
  /** The objects or addresses that some kinds of expectation name. */
  readonly named: string
}

const CONDITIONS = /^(tag|role|network|region|site|party|service)[\s:]+(\S+)$/
const SECTIONS: Record<string, string> = { interface: 'interfaces', subnet: 'subnets' }

const items = (text: string): string[] => text.split(',').flatMap((item) => item.trim() || [])

/**
 * One word or condition as the format writes it; what is not known is left as it is, for the reader
 * to say so.
 */
function term(word: string, ends: readonly EndChoice[]): unknown {
  const condition = CONDITIONS.exec(word)
  if (condition) return { [condition[1]!]: condition[2] }
  if (word === 'internet' || word.includes('/')) return word
  const end = resolveEnd(word, ends)
  const [kind = '', id = ''] = end?.includes(':')
    ? [end.slice(0, end.indexOf(':')), end.slice(end.indexOf(':') + 1)]
    : []
  if (SECTIONS[kind]) return `${SECTIONS[kind]}/${id}`
  return kind === 'site' || kind === 'party' || kind === 'service' ? { [kind]: id } : word
}

function selection(text: string, ends: readonly EndChoice[]): unknown {
  const terms = items(text).map((word) => term(word, ends))
  return terms.length === 1 ? terms[0] : terms
}

/** The form as text in the format, which is what is proved and kept. */
export function writtenText(written: Written, ends: readonly EndChoice[]): string {
  const { id, must, over } = written
  const [protocol, ...ports] = over
    .trim()
    .split(/[\s,]+/)
    .filter(Boolean)
  const names = MUSTS.find((one) => one.must === must)!.names
  const expectation = {
    ...(items(written.from).length > 0 ? { from: selection(written.from, ends) } : {}),
    ...(items(written.to).length > 0 ? { to: selection(written.to, ends) } : {}),
    ...(items(written.except).length > 0 ? { except: selection(written.except, ends) } : {}),
    ...(protocol ? { protocol } : {}),
    ...(ports.length > 0
      ? { ports: ports.map((port) => (/^\d+$/.test(port) ? Number(port) : port)) }
      : {}),
    must,
    ...(names && items(written.named).length > 0 ? { [names]: items(written.named) } : {}),
  }
  return stringify({ expectations: { [id.trim() || 'unnamed']: expectation } }, { lineWidth: 0 })
}

/** A question of a packet. */
interface AskedPacket {
  readonly from: string
  readonly to: string
  readonly protocol?: string | number | undefined
  readonly port?: number | null | undefined
}

/** What the address of the Expectations view has for a new one about a question. */
export const expectationQuery = (
  { from, to, protocol = 'tcp', port = null }: AskedPacket,
  must: Must,
): Record<string, string> => ({
  write: '1',
  from: wordOf(from),
  to: wordOf(to),
  over: port === null ? String(protocol) : `${protocol} ${port}`,
  must,
})

/** An end of a question as the small form writes it. */
function wordOf(end: string): string {
  const [, kind, id] = /^([a-z]+):(.+)$/.exec(end) ?? []
  if (kind === 'interface' || kind === 'subnet' || kind === 'frontend') return `${kind}s/${id}`
  return kind === undefined || /^[0-9a-f]+$/.test(kind) ? hostPrefix(end) : `${kind} ${id}`
}

/** An address as a prefix of its own; anything else as it is. */
function hostPrefix(text: string): string {
  if (/^\d+\.\d+\.\d+\.\d+$/.test(text)) return `${text}/32`
  return /^[0-9a-f:]+$/i.test(text) && text.includes(':') ? `${text}/128` : text
}

/** The ids that a text defines, in the order it does; what is no such text defines none. */
export const idsWritten = (text: string): string[] => {
  const section = /^expectations:\s*$/m.exec(text)
  if (!section) return []
  const lines = text.slice(section.index + section[0].length).split('\n')
  const indent = lines
    .map((line) => /^( +)[A-Za-z0-9]/.exec(line)?.[1]?.length)
    .find((width) => width !== undefined)
  return lines.flatMap((line) =>
    indent !== undefined
      ? (new RegExp(`^ {${indent}}([A-Za-z0-9][\\w.-]*):`).exec(line)?.[1] ?? [])
      : [],
  )
}
