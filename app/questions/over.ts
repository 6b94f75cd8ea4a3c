import type { PortSpan } from '@salt-trail/core'
import type { PortNames } from './port-names'

/** What a question goes over. */
export interface Over {
  /** `tcp`, `udp`, `icmp`, `icmpv6` or a number. */
  readonly protocol: string
  /** Destination ports, the first and the last; null for a protocol without ports. */
  readonly ports: PortSpan | null
  /** Null where the question does not say one. */
  readonly sourcePort: number | null
}

/** What is taken where the bar says nothing; its placeholder says so. */
export const USUAL_OVER = 'tcp 443'

const PROTOCOL = /^(tcp|udp|icmp|icmpv6|\d{1,3})$/
const PORTS = /^(\d{1,5})(?:-(\d{1,5}))?$/

/**
 * Whether a text can only be read with the names of services: it has a word that is no protocol.
 */
export const hasServiceName = (text: string): boolean =>
  wordsOf(text).some((word) => /[a-z]/.test(word) && word !== 'from' && !PROTOCOL.test(word))

const wordsOf = (text: string): string[] =>
  text
    .trim()
    .toLowerCase()
    .replaceAll(/\s*[-–]\s*(?=\d)/g, '-')
    .split(/[\s/:]+/)
    .filter(Boolean)

/**
 * Reads `tcp 443`, `443`, `ssh`, `udp dns`, `tcp 8000-8100`, `udp 53 from 40000`, `icmp`. Returns a
 * sentence where it cannot. A port alone is one of TCP.
 */
export function readOver(text: string, names: PortNames | null = null): Over | string {
  const words = wordsOf(text)
  if (words.length === 0) return 'say over what: a protocol and a port, such as tcp 443'
  const [first, second] = words
  const isPorts = PORTS.test(first!) && (second === undefined || second === 'from')
  const service = isPorts || PROTOCOL.test(first!) ? null : (names?.portOf(first!) ?? undefined)
  if (service === undefined)
    return `"${first}" is no protocol, and no service that the registry of ports has: write tcp, udp, icmp, icmpv6 or a number, and a port or a service such as ssh`
  const protocol = isPorts ? 'tcp' : (service?.protocol ?? first!)
  const rest = isPorts || service ? words.slice(1) : words.slice(2)
  const port = service ? String(service.port) : isPorts ? first : second
  return readPorts(protocol, port === 'from' ? undefined : port, rest, names)
}

/** The ports of a question whose protocol is read; `rest` is what stands behind them. */
function readPorts(
  protocol: string,
  port: string | undefined,
  [from, source, ...more]: readonly string[],
  names: PortNames | null,
): Over | string {
  if (more.length > 0 || (from !== undefined && (from !== 'from' || source === undefined)))
    return 'after the port only "from" and a source port can follow'
  const ports = port === undefined ? null : portsOf(protocol, port, names)
  if (typeof ports === 'string') return ports
  const sourcePort = source === undefined ? null : Number(source)
  if (sourcePort !== null && !(/^\d{1,5}$/.test(source!) && sourcePort <= 65535))
    return `"${source}" is no source port: a number from 0 to 65535`
  const hasPorts = protocol === 'tcp' || protocol === 'udp'
  if (ports === null && hasPorts) return `${protocol} needs a port, such as ${protocol} 443`
  if (ports !== null && protocol.startsWith('icmp')) return `${protocol} has no ports`
  return { protocol, ports, sourcePort }
}

function portsOf(protocol: string, word: string, names: PortNames | null): PortSpan | string {
  const found = PORTS.exec(word)
  if (!found) {
    const named = names?.portOf(word) ?? null
    return named === null
      ? `"${word}" is neither a port nor a service that the registry of ports has`
      : { from: named.port, to: named.port }
  }
  const [from, to] = [Number(found[1]), Number(found[2] ?? found[1])]
  if (to > 65535 || from > 65535) return 'a port is a number from 0 to 65535'
  return from > to ? `${protocol} ${word}: ports go from the lower to the higher` : { from, to }
}

const portsText = ({ from, to }: PortSpan): string => (from === to ? `${from}` : `${from}-${to}`)

/** As it is written in the bar and in addresses: `tcp 22`. */
export const overText = ({ protocol, ports, sourcePort }: Over): string =>
  [
    protocol,
    ports === null ? '' : portsText(ports),
    sourcePort === null ? '' : `from ${sourcePort}`,
  ]
    .filter(Boolean)
    .join(' ')

/** What it is in words: `TCP port 22, ssh`. */
export function overWords({ protocol, ports, sourcePort }: Over, names: PortNames | null): string {
  const named = /^\d+$/.test(protocol) ? `protocol ${protocol}` : protocol.toUpperCase()
  if (ports === null) return named
  const isOne = ports.from === ports.to
  const name = isOne ? (names?.nameOf(protocol, ports.from) ?? null) : null
  const source = sourcePort === null ? '' : ` from port ${sourcePort}`
  return `${named} ${isOne ? 'port' : 'ports'} ${portsText(ports)}${source}${name ? `, ${name}` : ''}`
}

/** The question about its first port alone, as a trace takes it. */
export const transportOf = ({ protocol, ports, sourcePort }: Over) => ({
  protocol,
  port: ports?.from ?? null,
  sourcePort,
})
