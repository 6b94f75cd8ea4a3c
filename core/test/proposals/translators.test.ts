import { apply, complete, proposalsFor, proverOf, type Estate } from '../../src/index'
import { estateOfJson } from '../random/read'

/** A translator in a subnet without a way out, which looks up where its neighbour does. */
const estate = (more: Record<string, object> = {}): Estate =>
  estateOfJson({
    networks: { n: { ranges: ['10.1.0.0/16'], defaultRouteTable: 'inner' } },
    subnets: {
      edge: { network: 'n', ranges: ['10.1.0.0/24'] },
      back: { network: 'n', ranges: ['10.1.1.0/24'] },
      app: { network: 'n', ranges: ['10.1.2.0/24'], routeTable: 'by-nat' },
      ...more.subnets,
    },
    interfaces: {
      b: { subnet: 'back', addresses: ['10.1.1.9'] },
      a: { subnet: 'app', addresses: ['10.1.2.9'] },
    },
    gateways: {
      door: { kind: 'internet', network: 'n' },
      line: { kind: 'private', network: 'n', site: 'yard' },
    },
    sites: { yard: { ranges: ['172.20.0.0/16'] } },
    routeTables: {
      inner: { network: 'n', routes: [{ to: '172.20.0.0/16', via: { gateway: 'line' } }] },
      'by-nat': { network: 'n', routes: [{ to: '0.0.0.0/0', via: { nat: 'nat' } }] },
      ...more.routeTables,
    },
    nats: {
      nat: {
        network: 'n',
        kind: 'public',
        placement: { subnet: 'edge' },
        addresses: ['203.0.113.9'],
      },
    },
    publicAddresses: { '203.0.113.9': { reserved: true } },
  })

const proposed = (from: Estate) => {
  const prover = proverOf(from)
  const finding = prover.findings.find(({ code }) => code === 'hole-nat-without-way-out')!
  return proposalsFor(prover, finding)
}

test('a translator’s subnet gets a copy of its table that leads out, and keeps its routes', () => {
  const before = estate()
  const [first] = proposed(before)
  expect(first).toMatchObject({
    harmless: true,
    what: 'give edge a copy of its table that leads out by door',
  })
  const made = apply(before, complete(before, first!.changes))
  if (!made.ok) throw new Error(made.failure.message)
  expect(made.estate.routeTables.get('edge-out')!.routes).toEqual([
    { to: '172.20.0.0/16', via: { gateway: 'line' } },
    { to: '0.0.0.0/0', via: { gateway: 'door' } },
  ])
  expect(made.estate.subnets.get('back')!.routeTable).toBeUndefined()
})

test('a subnet that has a way out is where a translator is put', () => {
  const whats = proposed(
    estate({
      subnets: { public: { network: 'n', ranges: ['10.1.3.0/24'], routeTable: 'out' } },
      routeTables: {
        out: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
      },
    }),
  ).map(({ what }) => what)
  expect(whats).toContain('put nat into public, which has a way out')
})
