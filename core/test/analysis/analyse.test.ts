import {
  analyse,
  findAll,
  type CellFinding,
  type ExitColumn,
  type MarkedRow,
} from '../../src/index'
import { modelOf } from '../trace/fixtures'

const estate = {
  networks: { shop: { ranges: ['10.1.0.0/16'] }, depot: { ranges: ['10.2.0.0/16'] } },
  gateways: { door: { kind: 'internet', network: 'shop' } },
  peerings: { pair: { a: { network: 'shop' }, b: { network: 'depot' } } },
  routeTables: {
    out: { network: 'shop', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
    stale: { network: 'shop', routes: [{ to: '10.2.0.0/16', via: { peering: 'gone' } }] },
  },
  ruleSets: { open: { rules: [{ direction: 'out', peers: ['any'] }] } },
  subnets: {
    front: { network: 'shop', ranges: ['10.1.1.0/24'], role: 'private', routeTable: 'out' },
    back: { network: 'shop', ranges: ['10.1.2.0/24'], role: 'isolated', routeTable: 'stale' },
    shelf: { network: 'depot', ranges: ['10.2.1.0/24'] },
  },
  interfaces: {
    till: {
      subnet: 'front',
      addresses: ['10.1.1.9'],
      publicAddress: '203.0.113.9',
      ruleSets: ['open'],
    },
    ledger: { subnet: 'back', addresses: ['10.1.2.9'], ruleSets: ['open'] },
  },
}

function run(edit: object = {}) {
  const rows: MarkedRow[] = []
  const steps: [string, number, number][] = []
  let found = -1
  const whole = analyse(modelOf(estate, edit), {
    progress: (...step) => {
      steps.push(step)
    },
    exits: (more) => rows.push(...more),
    findings: (findings) => (found = findings.length),
  })
  return { rows, steps, found, whole }
}
const cell = (
  rows: readonly MarkedRow[],
  subnet: string,
  column: ExitColumn,
): readonly CellFinding[] => rows.find((row) => row.subnet === subnet)!.findings[column] ?? []

test('an analysis tells every row, every finding, and how far it is', () => {
  const { rows, steps, found, whole } = run()
  expect(whole).toBe(true)
  expect(rows.map((row) => row.subnet)).toEqual(['front', 'back', 'shelf'])
  expect(found).toBe(findAll(modelOf(estate))!.findings.length)
  const done = steps.map(([, n]) => n)
  expect(done).toEqual([...done].sort((a, b) => a - b))
  expect(steps.at(-1)).toEqual(['done', steps[0]![2], steps[0]![2]])
})

test('whoever listens can end it', () => {
  const asked: string[] = []
  const whole = analyse(modelOf(estate), {
    progress: (about) => asked.push(about) > 2,
    exits: () => fail(),
    findings: () => fail(),
  })
  expect([whole, asked.length]).toEqual([false, 3])
})
const fail = (): void => {
  throw new Error('an analysis that was ended has nothing to tell')
}

test('a finding marks the cell of the subnet and the destinations it is about', () => {
  const { rows } = run()
  expect(cell(rows, 'front', 'internet').map((one) => one.family)).toContain('leak')
  expect(cell(rows, 'front', 'otherNetworks')).toEqual([])
  expect(cell(rows, 'back', 'otherNetworks')).toMatchObject([
    { family: 'hole', sentence: expect.stringContaining('gone') as string },
  ])
  expect(cell(rows, 'back', 'internet')).toEqual([])
})

test('one edit away, the mark is gone', () => {
  const { rows } = run({
    subnets: { front: { role: 'public' } },
    routeTables: { stale: { routes: [{ to: '10.2.0.0/16', via: { peering: 'pair' } }] } },
  })
  expect(cell(rows, 'front', 'internet')).toEqual([])
  expect(cell(rows, 'back', 'otherNetworks')).toEqual([])
})

test('what is lost on the way to a site is told of that site, and what comes in by a door of the subnet it enters', () => {
  const sites = { yard: { ranges: ['172.20.0.0/16'] }, office: { ranges: ['172.21.0.0/16'] } }
  const { rows } = run({
    sites,
    routeTables: {
      out: {
        network: 'shop',
        routes: [
          { to: '0.0.0.0/0', via: { gateway: 'door' } },
          { to: '172.20.0.0/16', via: { peering: 'gone' } },
        ],
      },
    },
    ruleSets: {
      open: {
        rules: [
          { direction: 'out', peers: ['any'] },
          { direction: 'in', peers: ['any'], protocol: 'tcp', ports: [22] },
        ],
      },
    },
  })
  expect(cell(rows, 'front', 'sites').map(({ members }) => members)).toContainEqual(['yard'])
  const entering = (subnet: string) => rows.find((row) => row.subnet === subnet)!.entering
  // Who asks is an address of the internet, also where a port of administration is what tells most.
  expect(entering('front').internet).toMatchObject([
    { family: 'leak', anchor: 'interfaces/till', question: { from: '1.0.0.0' } },
  ])
  expect(entering('back')).toEqual({})
})

test('a rule that is not there opens nothing', () => {
  const { rows } = run()
  expect(rows.map(({ entering }) => entering)).toEqual([{}, {}, {}])
})
