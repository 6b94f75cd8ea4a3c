import type { Path } from '../read/source'
import type { Section } from '../schema/document'
import type { Checking } from './checking'

/**
 * IP protocols whose packets carry ports: TCP, UDP, DCCP, SCTP, UDP-Lite (the IANA protocol
 * numbers).
 */
const WITH_PORTS = new Set([6, 17, 33, 132, 136])

const hasPorts = (protocol: string | number | undefined): boolean =>
  protocol === undefined ||
  protocol === 'any' ||
  protocol === 'tcp' ||
  protocol === 'udp' ||
  (typeof protocol === 'number' && WITH_PORTS.has(protocol))

interface Ported {
  readonly protocol?: string | number
  readonly ports?: readonly unknown[]
  readonly sourcePorts?: readonly unknown[]
}

/** Rules that cannot mean anything: half-ordered sets, ports where there are none. */
export function checkRules(checking: Checking): void {
  const { estate, error } = checking
  const ports = (section: Section, id: string, rule: Ported, path: Path, object?: string): void => {
    for (const key of ['ports', 'sourcePorts'] as const) {
      if ((rule[key]?.length ?? 0) === 0 || hasPorts(rule.protocol)) continue
      error(
        { section, id, path: [...path, key], part: 'key', object },
        'ports-without-protocol',
        `protocol ${rule.protocol} has no ports; take "${key}" out, or name tcp or udp`,
      )
    }
  }

  for (const [id, set] of estate.ruleSets) {
    const rules = set.rules ?? []
    const ordered = rules.filter((rule) => rule.order !== undefined).length
    if (ordered > 0 && ordered < rules.length) {
      const index = rules.findIndex((rule) => rule.order === undefined)
      error(
        { section: 'ruleSets', id, path: ['rules', index] },
        'order-on-some',
        `"order" is on ${ordered} of ${rules.length} rules; give it to all of them (the first match decides) or to none (any match allows)`,
      )
    }
    rules.forEach((rule, index) => ports('ruleSets', id, rule, ['rules', index]))
  }
  const ids = checking.listIds('estateRules')
  estate.estateRules.forEach((rule, index) =>
    ports('estateRules', ids[index]!, rule, [], `estateRules/${rule.order}`),
  )
  for (const [id, firewall] of estate.firewalls) {
    firewall.policy?.forEach((rule, index) => ports('firewalls', id, rule, ['policy', index]))
  }
  for (const [id, expectation] of estate.expectations) ports('expectations', id, expectation, [])
  for (const [id, frontend] of estate.frontends) {
    frontend.listeners?.forEach((listener, index) => {
      if (hasPorts(listener.protocol)) return
      error(
        { section: 'frontends', id, path: ['listeners', index, 'protocol'] },
        'ports-without-protocol',
        `a listener has a port, and protocol ${listener.protocol} has none; name tcp or udp`,
      )
    })
  }
}
