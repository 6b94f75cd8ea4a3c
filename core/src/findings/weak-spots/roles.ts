import { attributeOf, missingIn } from '../root'
import { derived, sameItems } from '../../incremental/derived'
import { pointer } from '../../changes/index'
import type { Model, SubnetModel } from '../../model/model'
import { mend } from '../../mend/mend'
import { associate } from '../../mend/recipes/routes'
import { finding, type Finding } from '../finding'
import {
  check,
  checkSubnets,
  FAMILIES,
  fromText,
  gatewayOf,
  internetText,
  listText,
  nameOf,
  type CheckContext,
} from '../survey'
import { presentOf } from '../../model/present'

import { zones } from './zones'

/**
 * Where what is declared of a subnet and what is so part ways: its role, whom it stands beside, its
 * zone.
 */
export const checkRoles = checkSubnets('upkeep', (survey, subnet) => [
  ...role(survey, subnet),
  ...besideFirewall(survey, subnet),
  ...zones(survey, subnet),
])

/** Whether a subnet’s routes lead to a door by which the internet can come in. */
function hasDoor(survey: CheckContext, subnet: SubnetModel): string | null {
  const { model } = survey
  const behaviour = model.networks[subnet.network]!.behaviour
  const inline = (ref: string): boolean =>
    ref.startsWith('firewalls/') &&
    model.firewalls[model.index.firewalls.get(nameOf(ref)) ?? -1]?.style === 'inline'
  for (const table of survey.tablesOf(subnet)) {
    for (const family of FAMILIES) {
      for (const { outcome } of survey.toInternet(subnet, table, family)) {
        const lacksAddress = outcome.cause?.code === 'no-public-address'
        if (outcome.cause !== null && !lacksAddress) continue
        // An inline firewall before the door does not keep the internet from coming in by it.
        const way = (outcome.ways[0] ?? []).filter((ref) => !inline(ref))
        if (way.length !== 1) continue
        const gateway = gatewayOf(model, way[0]!)
        if (gateway?.kind === 'internet' && (behaviour === 'table-routed' || !lacksAddress))
          return gateway.ref
        if (way[0] === 'internet' && !lacksAddress && (family === 6 || table.kind.hasPublicAddress))
          return 'the built-in way'
      }
    }
  }
  return null
}

function role(survey: CheckContext, subnet: SubnetModel): Finding[] {
  if (
    !subnet.up ||
    (subnet.role !== 'public' && subnet.role !== 'private' && subnet.role !== 'isolated') ||
    survey.tablesOf(subnet).length === 0
  )
    return []
  const door = hasDoor(survey, subnet)
  if ((door !== null) === (subnet.role === 'public')) return []
  const table = subnet.table >= 0 ? survey.model.tables[subnet.table]!.ref : null
  return [
    finding({
      code: 'odd-role',
      severity: 'medium',
      anchor: subnet.ref,
      objects: [subnet.ref, table, door?.includes('/') ? door : null],
      sentence:
        door === null
          ? `${subnet.id} is declared public, but its routes lead to no door by which the internet could come in.`
          : `${subnet.id} is declared ${subnet.role}, but its routes lead straight to ${nameOf(door)}.`,
      root: attributeOf(subnet.ref, 'role'),
      question: {
        from: fromText(survey.model, subnet, survey.tablesOf(subnet)[0]!),
        to: internetText(survey.model, 4),
      },
      mend: {
        what: `declare ${subnet.id} ${door === null ? 'private' : 'public'}, if its routes are meant`,
        changes: [
          {
            op: 'replace',
            path: pointer('subnets', subnet.id, 'role'),
            value: door === null ? 'private' : 'public',
          },
        ],
      },
    }),
  ]
}

/**
 * A subnet that relies on its network’s default table, while its neighbours of the same role have
 * one of their own.
 */
export const checkDefaultTables = check(
  'upkeep',
  ({ model }) => presentOf(model, 'networks'),
  ({ model }, index) => {
    const network = model.networks[index]!
    if (network.behaviour === 'priority-routed') return []
    const members = network.subnets.map((one) => model.subnets[one]!)
    return members.flatMap((subnet) => {
      if (subnet.ownTable || subnet.table < 0) return []
      const neighbours = members.filter(
        (other) => other !== subnet && other.role === subnet.role && other.ownTable,
      )
      if (neighbours.length === 0) return []
      const tables = [...new Set(neighbours.map((other) => model.tables[other.table]!.id))]
      const [only] = tables
      return [
        finding({
          code: 'odd-default-table',
          severity: 'low',
          anchor: subnet.ref,
          objects: [
            subnet.ref,
            model.tables[subnet.table]!.ref,
            ...tables.map((id) => `routeTables/${id}`),
          ],
          sentence: `${subnet.id} has no table of its own and uses its network’s default ${model.tables[subnet.table]!.id}, while ${listText(neighbours.map((one) => one.id))} of the same role use ${listText(tables)}.`,
          root: missingIn(subnet.ref, 'routeTable'),
          mend:
            tables.length === 1
              ? mend(`associate ${subnet.id} with ${only}`, [associate(subnet.id, only!)])
              : null,
        }),
      ]
    })
  },
)

/** The subnets that inline firewalls have endpoints in. */
const inlineSubnets = derived(
  (model: Model): ReadonlySet<number> =>
    new Set(
      model.firewalls.flatMap(({ source }) =>
        source.style === 'inline'
          ? Object.values(source.endpoints ?? {}).map(
              (one) => model.index.subnets.get(one.subnet) ?? -1,
            )
          : [],
      ),
    ),
  { same: sameItems },
)

/** The subnets that routed firewalls have interfaces in. */
const routedSubnets = derived(
  (model: Model): ReadonlySet<number> =>
    new Set([...model.firewallAt.keys()].map((index) => model.interfaces[index]!.subnet)),
  { same: sameItems },
)

/** Hosts that stand beside a firewall, in its subnet: nothing inspects what comes to them there. */
function besideFirewall({ model }: CheckContext, subnet: SubnetModel): Finding[] {
  const inline = inlineSubnets(model)
  const routed = routedSubnets(model)
  if (subnet.role !== 'inspection' && !inline.has(subnet.index)) return []
  const hosts = subnet.interfaces.filter(
    (index) =>
      !model.firewallAt.has(index) &&
      !model.interfaces[index]!.forwards &&
      model.index.interfaces.has(model.interfaces[index]!.id),
  )
  if (
    hosts.length === 0 ||
    (subnet.role !== 'inspection' && !routed.has(subnet.index) && !inline.has(subnet.index))
  )
    return []
  const refs = hosts.map((index) => model.interfaces[index]!.ref)
  return [
    finding({
      code: 'odd-shared-inspection-subnet',
      severity: 'medium',
      anchor: subnet.ref,
      objects: [subnet.ref, ...refs],
      sentence: `${listText(refs.map(nameOf))} ${refs.length === 1 ? 'stands' : 'stand'} in ${subnet.id} beside a firewall, and ${refs.length === 1 ? 'is' : 'are'} not protected by it.`,
      root: attributeOf(subnet.ref, 'interfaces'),
    }),
  ]
}
