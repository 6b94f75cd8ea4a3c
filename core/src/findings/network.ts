import type { Estate } from '../format/estate'
import { splitRef } from '../format/ref'
import type { Finding } from './finding'

/**
 * The network a finding lies in: that of its anchor, else of the first object concerned that has
 * one; null where none has.
 */
export function networkOfFinding(
  estate: Estate,
  { anchor, objects }: Pick<Finding, 'anchor' | 'objects'>,
): string | null {
  for (const ref of [anchor, ...objects]) {
    const network = networkOf(estate, ref)
    if (network !== null) return network
  }
  return null
}

function networkOf(estate: Estate, ref: string): string | null {
  const [section, id] = splitRef(ref)
  switch (section) {
    case 'networks':
      return id
    case 'subnets':
    case 'routeTables':
    case 'gateways':
    case 'nats':
    case 'endpoints':
    case 'frontends':
      return estate[section].get(id)?.network ?? null
    case 'interfaces':
      return estate.subnets.get(estate.interfaces.get(id)?.subnet ?? '')?.network ?? null
    case 'peerings':
      return estate.peerings.get(id)?.a.network ?? null
    case 'firewalls': {
      const firewall = estate.firewalls.get(id)
      if (firewall?.style !== 'routed') return firewall?.network ?? null
      const [first] = Object.values(firewall.interfaces ?? {})
      return first === undefined ? null : networkOf(estate, `interfaces/${first}`)
    }
    default:
      return null
  }
}
