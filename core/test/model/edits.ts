import type { Estate } from '../../src/index'
import type { Random } from '../random/random'

type Editable =
  | 'networks'
  | 'subnets'
  | 'interfaces'
  | 'routeTables'
  | 'gateways'
  | 'nats'
  | 'peerings'
  | 'transits'
  | 'firewalls'
  | 'sites'
  | 'ruleSets'
  | 'services'
  | 'prefixLists'
  | 'frontends'
  | 'endpoints'
const SECTIONS: Editable[] = [
  'networks',
  'subnets',
  'interfaces',
  'routeTables',
  'gateways',
  'nats',
  'peerings',
  'transits',
  'firewalls',
  'sites',
  'ruleSets',
  'services',
  'prefixLists',
  'frontends',
  'endpoints',
]

/** One change, with everything else shared: an object's state, a route more or less, an association, a rule. */
export function edited(estate: Estate, r: Random): Estate {
  const section = r.pick(SECTIONS)
  const objects = new Map<string, object>(estate[section])
  const id = r.pick([...objects.keys()])
  const old = objects.get(id) as { routes?: unknown[]; rules?: unknown[]; state?: string }
  if (section === 'routeTables' && r.chance(60))
    objects.set(id, { ...old, routes: r.chance(50) ? old.routes!.slice(1) : [...old.routes!, { to: '10.200.0.0/16', via: 'drop' }] })
  else if (section === 'ruleSets' && r.chance(60)) objects.set(id, { ...old, rules: (old.rules ?? []).slice(1) })
  else if (section === 'subnets' && r.chance(60)) {
    const { network } = estate.subnets.get(id)!
    objects.set(id, { ...old, routeTable: r.pick([...estate.routeTables].filter(([, table]) => table.network === network))[0] })
  } else if (r.chance(30) && (section === 'nats' || section === 'peerings')) objects.delete(id)
  else objects.set(id, { ...old, state: r.pick(['up', 'down', 'deleted']) })
  return { ...estate, [section]: objects }
}
