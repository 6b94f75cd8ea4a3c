import {
  apply,
  complete,
  proposalsFor,
  proposalsForQuestion,
  proverOf,
  type Estate,
  type FindingCode,
  type Proposal,
} from '../../src/index'
import { estateOfJson } from '../random/read'

const proposed = (estate: Estate, code: FindingCode): Proposal[] => {
  const prover = proverOf(estate)
  const finding = prover.findings.find((one) => one.code === code)
  if (!finding) throw new Error(`no ${code}: ${prover.findings.map((one) => one.code).join()}`)
  return proposalsFor(prover, finding)
}

function after(estate: Estate, { changes }: Proposal): Estate {
  const made = apply(estate, complete(estate, changes))
  if (!made.ok) throw new Error(made.failure.message)
  return made.estate
}

/** Two networks that nothing joins; a route of the first leads to the second by a host of its own. */
const apart = (routes: readonly object[] = []): Estate =>
  estateOfJson({
    networks: { quay: { ranges: ['10.1.0.0/16'] }, isle: { ranges: ['10.2.0.0/16'] } },
    subnets: {
      inner: { network: 'quay', ranges: ['10.1.1.0/24'], routeTable: 'inner' },
      shore: { network: 'isle', ranges: ['10.2.1.0/24'] },
    },
    interfaces: {
      winch: { subnet: 'inner', addresses: ['10.1.1.5'] },
      relay: { subnet: 'inner', addresses: ['10.1.1.6'], forwards: true },
      buoy: { subnet: 'shore', addresses: ['10.2.1.5'] },
    },
    routeTables: {
      inner: {
        network: 'quay',
        routes: [{ to: '10.2.0.0/16', via: { interface: 'relay' } }, ...routes],
      },
    },
  })

test('what goes round in a ring is dropped at once where no way leads there', () => {
  const estate = apart([{ to: '10.0.0.0/8', via: { interface: 'relay' } }])
  const [first] = proposed(estate, 'hole-loop')
  expect(first).toMatchObject({
    harmless: true,
    what: 'drop 10.2.0.0/16 in inner at once, instead of losing it further on',
    rows: [],
  })
  expect(after(estate, first!).routeTables.get('inner')!.routes![0]).toEqual({
    to: '10.2.0.0/16',
    via: 'drop',
  })
})

test('where a way leads there, nothing is dropped', () => {
  const { peerings: _, ...rest } = apart()
  const estate = {
    ...rest,
    peerings: new Map([['join', { a: { network: 'quay' }, b: { network: 'isle' } }]]),
  } as Estate
  for (const { what } of proposed(estate, 'hole-loop')) expect(what).not.toMatch(/drop/)
})

test('a service is reached by the subnet’s switch, or by a routed endpoint of its network', () => {
  const estate = estateOfJson({
    regions: { north: { zones: ['n1'] } },
    networks: { quay: { ranges: ['10.1.0.0/16'], region: 'north' } },
    subnets: {
      inner: { network: 'quay', ranges: ['10.1.1.0/24'], zone: 'n1', routeTable: 'out' },
      edge: { network: 'quay', ranges: ['10.1.2.0/24'], zone: 'n1', routeTable: 'door' },
    },
    interfaces: { winch: { subnet: 'inner', addresses: ['10.1.1.5'] } },
    services: { logs: { region: 'north', ranges: ['198.51.100.0/26'] } },
    gateways: { gate: { kind: 'internet', network: 'quay' } },
    nats: {
      nat: { network: 'quay', placement: { subnet: 'edge' }, addresses: ['203.0.113.9'] },
    },
    publicAddresses: { '203.0.113.9': { reserved: true } },
    routeTables: {
      out: { network: 'quay', routes: [{ to: '0.0.0.0/0', via: { nat: 'nat' } }] },
      door: { network: 'quay', routes: [{ to: '0.0.0.0/0', via: { gateway: 'gate' } }] },
    },
  })
  const ways = proposed(estate, 'leak-service-by-internet')
  expect(ways.every(({ harmless }) => harmless)).toBe(true)
  const made = after(
    estate,
    ways.find(({ what }) => /an endpoint of quay/.test(what))!,
  )
  const [endpoint] = [...made.endpoints.keys()]
  expect(made.endpoints.get(endpoint!)).toEqual({
    style: 'routed',
    service: 'logs',
    network: 'quay',
  })
  expect(made.routeTables.get('out')!.routes).toContainEqual({
    to: { service: 'logs' },
    via: { endpoint },
  })
})

test('a priority-routed network without a table gets one, which holds for all of it', () => {
  const estate = estateOfJson({
    networks: { quay: { ranges: ['10.1.0.0/16'], behaviour: 'priority-routed' } },
    subnets: { inner: { network: 'quay', ranges: ['10.1.1.0/24'] } },
    interfaces: { winch: { subnet: 'inner', addresses: ['10.1.1.5'] } },
    gateways: { line: { kind: 'private', network: 'quay', site: 'yard' } },
    sites: { yard: { ranges: ['172.20.0.0/16'] } },
  })
  const question = { from: 'interface:winch', to: 'site:yard', protocol: 'tcp', port: 443 }
  const [first] = proposalsForQuestion(proverOf(estate), question)
  const made = after(estate, first!)
  const table = made.networks.get('quay')!.defaultRouteTable!
  expect(made.routeTables.get(table)!.routes).toEqual([
    { to: '172.20.0.0/16', via: { gateway: 'line' } },
  ])
  expect(made.subnets.get('inner')!.routeTable).toBeUndefined()
})
