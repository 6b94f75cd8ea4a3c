import { attributeOf } from '../root'
import { derived, sameItems } from '../../incremental/derived'
import type { NatModel } from '../../model/model'
import { type Finding, finding } from '../finding'
import { sharePorts } from '../../mend/recipes/upkeep'
import { modelOf, type CheckContext } from '../survey'

/** Source ports an address offers. */
const PORTS_PER_ADDRESS = 64512

/** The elements that a subnet's ways to the internet pass, each with the hosts that send there. */
const passedBy = derived(
  (survey: CheckContext, index: number): ReadonlyMap<string, readonly number[]> => {
    const subnet = survey.model.subnets[index]!
    const found = new Map<string, number[]>()
    for (const table of survey.tablesOf(subnet)) {
      const refs = new Set(
        survey.toInternet(subnet, table, 4).flatMap(({ outcome }) => outcome.ways.flat()),
      )
      for (const ref of refs) found.set(ref, [...(found.get(ref) ?? []), ...table.kind.interfaces])
    }
    return found
  },
  {
    same: (a, b) =>
      sameItems(a.keys(), b.keys()) &&
      [...a].every(([ref, hosts]) => sameItems(hosts, b.get(ref)!)),
    on: modelOf,
  },
)

/** How many hosts send to the internet by each element; elements without any are left out. */
export const servedBy = derived(
  (survey: CheckContext): ReadonlyMap<string, number> => {
    const hosts = new Map<string, number>()
    for (const index of survey.present()) {
      for (const [ref, own] of passedBy(survey, index))
        hosts.set(ref, (hosts.get(ref) ?? 0) + new Set(own).size)
    }
    return hosts
  },
  {
    same: (a, b) => a.size === b.size && [...a].every(([ref, count]) => b.get(ref) === count),
    on: modelOf,
  },
)

const hostsServed = derived(
  (survey: CheckContext, ref: string): number => servedBy(survey).get(ref) ?? 0,
  { same: Object.is, on: modelOf },
)

/** A NAT whose hosts may need more source ports than its addresses offer. */
export function capacity(survey: CheckContext, nat: NatModel): Finding[] {
  const served = hostsServed(survey, nat.ref)
  const perHost = nat.source.portsPerHost ?? 1024
  const offered =
    nat.addresses.filter((address) => !nat.draining.has(address)).length * PORTS_PER_ADDRESS
  if (served * perHost <= offered || offered === 0) return []
  return [
    finding({
      code: 'odd-nat-capacity',
      severity: 'medium',
      anchor: nat.ref,
      sentence: `${nat.id} serves ${served} hosts with ${perHost} ports each: ${served * perHost}, more than the ${offered} its addresses offer.`,
      root: attributeOf(nat.ref, 'addresses'),
      facts: [`${served} hosts`, `${perHost} ports for each`, `${offered} ports offered`],
      mend: sharePorts(nat, served, offered),
    }),
  ]
}
