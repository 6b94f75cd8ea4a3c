import { isFaulty, OWN_RULES, putHub, putNetwork, putRegion, type MakeShape } from './shape'

/**
 * Networks of four subnets on one transit with three tables: `open` learns all, `closed` has only
 * a way to the hub, `core`, which the hub is in, learns all. One network of ten is not listed with
 * the zone of a subnet, one has no route to the transit, one is in a table that leads nowhere.
 */
export const transit: MakeShape = (draft, subnets) => {
  putRegion(draft)
  putHub(draft)
  draft.put('ruleSets', 'own-rules', OWN_RULES)
  const networks = Math.round((subnets - 2) / 4)
  const attachments: Record<string, object> = {
    hub: { network: 'hub', subnets: ['hub-inside'], table: 'core' },
  }
  for (let number = 1; number <= networks; number++) {
    const id = `branch-${number}`
    const [zone, lacks, lost] = [1, 2, 3].map((offset) => isFaulty(number, offset))
    putNetwork(draft, number, id, 4, { network: { defaultRouteTable: `${id}-table` } })
    draft.put('routeTables', `${id}-table`, {
      network: id,
      routes: lacks ? [] : [{ to: '0.0.0.0/0', via: { transit: 'router' } }],
    })
    attachments[id] = {
      network: id,
      subnets: [0, 1, ...(zone ? [] : [2])].map((at) => `${id}-s${at}`),
      table: lost ? 'nowhere' : number % 2 ? 'open' : 'closed',
    }
    if (zone) draft.plant('transit-not-in-zone', `subnets/${id}-s2`)
    if (lacks) draft.plant('hole-no-way-out', `routeTables/${id}-table`)
    if (lost) draft.plant('a table that leads nowhere', `networks/${id}`)
  }
  draft.put('transits', 'router', {
    attachments,
    tables: {
      open: { learn: 'all', routes: [{ to: '0.0.0.0/0', via: 'hub' }] },
      closed: { learn: ['hub'], routes: [{ to: '0.0.0.0/0', via: 'hub' }] },
      core: { learn: 'all' },
      nowhere: { learn: ['hub'] },
    },
  })
  // From the transit what is for the internet goes to the wall, and back from it to the transit.
  draft.put('routeTables', 'hub-inside-table', {
    network: 'hub',
    routes: [
      { to: '0.0.0.0/0', via: { interface: 'wall-inside' } },
      { to: '10.0.0.0/8', via: { transit: 'router' } },
    ],
  })
  draft.sections.subnets!['hub-inside'] = {
    ...(draft.sections.subnets!['hub-inside'] as object),
    routeTable: 'hub-inside-table',
  }
}
