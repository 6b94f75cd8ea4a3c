/** An end as it was pasted with more than itself, and what that says of the question. */
export interface PastedEnd {
  /** A host name or an address. */
  readonly end: string
  /** What it goes over; empty where the text does not say. */
  readonly over: string
}

/** Schemes that are no name of a service themselves. */
const SERVICE_OF: Readonly<Record<string, string>> = { ws: 'http', wss: 'https' }

const IPV4_WITH_PORT = /^(\d{1,3}(?:\.\d{1,3}){3}):(\d{1,5})$/
const IPV6_WITH_PORT = /^\[([0-9a-f:.]+)\](?::(\d{1,5}))?$/i
const NAME_WITH_PORT = /^([a-z0-9-]+(?:\.[a-z0-9-]+)+):(\d{1,5})$/i

/**
 * Takes apart `198.51.100.20:443`, `[2001:db8::1]:443`, `https://name.example:8443/path` and
 * `host.example:25`; null where the text is none of these. A scheme without a port is the name of its
 * service.
 */
export function readPasted(text: string): PastedEnd | null {
  const word = text.trim()
  const overOf = (port: string | undefined): string => (port === undefined ? '' : `tcp ${port}`)
  const [, v4, portOfV4] = IPV4_WITH_PORT.exec(word) ?? []
  if (v4 !== undefined) return { end: v4, over: overOf(portOfV4) }
  const [, v6, portOfV6] = IPV6_WITH_PORT.exec(word) ?? []
  if (v6 !== undefined) return { end: v6, over: overOf(portOfV6) }
  const [, name, portOfName] = NAME_WITH_PORT.exec(word) ?? []
  if (name !== undefined) return { end: name, over: overOf(portOfName) }
  return /^[a-z][a-z0-9+.-]*:\/\/[^/]/i.test(word) ? readUrl(word) : null
}

function readUrl(text: string): PastedEnd | null {
  if (!URL.canParse(text)) return null
  const { protocol, hostname, port } = new URL(text)
  const scheme = protocol.slice(0, -1)
  const end = hostname.replace(/^\[(.*)\]$/, '$1')
  return { end, over: port === '' ? (SERVICE_OF[scheme] ?? scheme) : `tcp ${port}` }
}
