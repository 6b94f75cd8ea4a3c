import { formatAddress } from '../address/address'
import { type Prefix, formatPrefix } from '../address/prefix'
import {
  type Model,
  type NetworkModel,
  type RouteModel,
  targetRef,
  type TableModel,
  type SubnetModel,
} from '../model/model'
import type { Question } from '../trace/question'
import { nextHopOwner } from '../walk/next-hop'
import { lowestInternetAddress } from '../walk/public-address'
import { type Finding, finding } from './finding'
import { routesOf, usersOf, removeRoutes } from './routes'
import { type Survey, nameOf, listText, FAMILIES, fromText, internetText } from './survey'

/** Why packets by this route are lost at its target, whatever they are. */
function fault(
  model: Model,
  network: NetworkModel,
  route: RouteModel,
): { readonly next: boolean; readonly object: string | null; readonly why: string } | null {
  const { target } = route
  const dead = (why: string): ReturnType<typeof fault> => ({
    next: false,
    object: targetRef(target),
    why,
  })
  switch (target.kind) {
    case 'address':
    case 'interface': {
      const { fault: found, interface: owner } = nextHopOwner(model, network.index, target)
      // A host takes what is addressed to it whether it forwards or not.
      if (found?.code === 'next-hop-not-forwarding' && isAddressOf(model, owner, route.prefix))
        return null
      return found && { next: true, object: found.object, why: found.why }
    }
    case 'gateway':
    case 'nat': {
      const object = (target.kind === 'gateway' ? model.gateways : model.nats)[target.index]
      if (!object) return dead('is not there')
      if (object.network !== network.index)
        return dead(
          object.network < 0
            ? 'is attached to no network'
            : `belongs to ${model.networks[object.network]!.id}`,
        )
      return object.up ? null : dead('is not up')
    }
    case 'peering': {
      const peering = model.peerings[target.index]
      if (!peering) return dead('is not there')
      if (peering.a.network !== network.index && peering.b.network !== network.index)
        return dead('connects other networks')
      return peering.up ? null : dead('is not up')
    }
    case 'transit': {
      const transit = model.transits[target.index]
      if (!transit) return dead('is not there')
      const name = transit.attachmentOf.get(network.index)
      if (name === undefined) return dead('is not attached to this network')
      return transit.up && (transit.source.attachments?.[name]?.state ?? 'up') === 'up'
        ? null
        : dead('is not up')
    }
    case 'endpoint': {
      const endpoint = model.estate.endpoints.get(target.id)
      if (!endpoint || endpoint.state === 'deleted') return dead('is not there')
      if (endpoint.network !== network.id)
        return dead(`belongs to ${endpoint.network ?? 'no network'}`)
      return (endpoint.state ?? 'up') === 'up' ? null : dead('is not up')
    }
    case 'inspect': {
      const firewall = model.firewalls[target.index]
      const endpoint =
        firewall?.source.style === 'inline'
          ? firewall.source.endpoints?.[target.endpoint]
          : undefined
      const subnet = model.subnets[model.index.subnets.get(endpoint?.subnet ?? '') ?? -1]
      if (!firewall || !endpoint || endpoint.state === 'deleted' || !subnet)
        return dead('is not there')
      if (subnet.network !== network.index) return dead('is in another network')
      return firewall.up && subnet.up && (endpoint.state ?? 'up') === 'up'
        ? null
        : dead('is not up')
    }
    default:
      return null
  }
}

/** Whether a prefix is just one address of an interface. */
const isAddressOf = (model: Model, index: number, prefix: Prefix): boolean =>
  prefix.length === (typeof prefix.address === 'number' ? 32 : 128) &&
  (model.interfaces[index]?.addresses ?? []).includes(prefix.address)

export function deadTargets(survey: Survey, table: TableModel): Finding[] {
  const { model } = survey
  const network = model.networks[table.network]!
  const byTarget = new Map<
    string,
    { routes: RouteModel[]; fault: NonNullable<ReturnType<typeof fault>> }
  >()
  for (const route of routesOf(table)) {
    if (route.state !== 'up' || route.entry < 0) continue
    const found = fault(model, network, route)
    if (!found) continue
    const key = `${found.next} ${'address' in route.target ? route.target.address : 'id' in route.target ? `${route.target.kind} ${route.target.id}` : ''}`
    const known = byTarget.get(key)
    if (known) known.routes.push(route)
    else byTarget.set(key, { routes: [route], fault: found })
  }
  const subnets = usersOf(survey, table)
  const users = subnets.map((subnet) => subnet.ref)
  return [...byTarget].map(([key, { routes, fault: found }]) => {
    const prefixes = [
      ...new Set(routes.map((route) => route.writtenTo ?? formatPrefix(route.prefix))),
    ]
    const target = nameOf(targetRef(routes[0]!.target) ?? key)
    return finding({
      code: found.next ? 'hole-next-hop' : 'hole-dead-target',
      severity: users.length > 0 ? 'high' : 'low',
      anchor: table.ref,
      objects: [table.ref, found.object, ...users],
      sentence: found.next
        ? `${table.id} sends ${listText(prefixes)} to a next hop that loses it: ${found.why}.`
        : `${table.id} sends ${listText(prefixes)} to ${target}, which ${found.why}.`,
      part: key,
      ranges: routes.map((route) => formatPrefix(route.prefix)),
      question: questionBy(survey, subnets, routes),
      mend: removeRoutes(table, routes),
    })
  })
}

/** A question whose packet some routes win: asked from the first subnet that looks them up. */
function questionBy(
  survey: Survey,
  users: readonly SubnetModel[],
  routes: readonly RouteModel[],
): Question | undefined {
  for (const subnet of users) {
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        const won = table.shared[family].filter(({ hop }) =>
          hop.winners.some((route) => routes.includes(route)),
        )
        // What is addressed to a next hop itself arrives there.
        const range = won.find(({ hop }) => hop.cause !== null) ?? won[0]
        if (!range) continue
        const outside = lowestInternetAddress(survey.model, family)
        const wins = table.shared[family].some(
          ({ from, to, hop }) =>
            from <= outside && outside <= to && hop.winners.some((route) => routes.includes(route)),
        )
        return {
          from: fromText(survey.model, subnet, table),
          to: wins ? internetText(survey.model, family) : formatAddress(range.from),
        }
      }
    }
  }
  return undefined
}
