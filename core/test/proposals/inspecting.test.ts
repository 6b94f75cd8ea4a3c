import {
  compile,
  isRefusal,
  proposalsFor,
  proverOf,
  trace,
  type Estate,
  type Proposal,
} from '../../src/index'
import { made } from '../changes/made'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'

const BY_WALL = [{ to: '0.0.0.0/0', via: { interface: 'wall-in' } }]

/** Two subnets whose default leads through a firewall between them, and their own network past it. */
const hall = (): Estate =>
  estateOfJson({
    networks: { hall: { ranges: ['10.1.0.0/16'] } },
    subnets: {
      desk: { network: 'hall', ranges: ['10.1.1.0/24'], routeTable: 'inner' },
      vault: { network: 'hall', ranges: ['10.1.2.0/24'], routeTable: 'inner' },
      gatehouse: { network: 'hall', ranges: ['10.1.9.0/24'], routeTable: 'outer' },
    },
    interfaces: {
      clerk: { subnet: 'desk', addresses: ['10.1.1.10'], ruleSets: ['open'] },
      safe: { subnet: 'vault', addresses: ['10.1.2.10'], ruleSets: ['open'] },
      'wall-in': { subnet: 'gatehouse', addresses: ['10.1.9.10'], forwards: true },
    },
    ruleSets: { open: { rules: [{ direction: 'in' }, { direction: 'out' }] } },
    gateways: { door: { kind: 'internet', network: 'hall' } },
    routeTables: {
      inner: { network: 'hall', routes: BY_WALL },
      outer: { network: 'hall', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
    },
    firewalls: {
      wall: {
        style: 'routed',
        interfaces: { inside: 'wall-in' },
        routes: [{ to: '0.0.0.0/0', via: { address: '10.1.9.1' } }],
        otherwise: 'allow',
      },
    },
  })

/** The firewalls that a question passes there and back after a proposal. */
function passed(estate: Estate, { changes }: Proposal, from: string, to: string): string[][] {
  const answer = trace(compile(made(estate, changes)), { from, to, protocol: 'tcp', port: 443 })
  if (isRefusal(answer)) throw new Error(answer.message)
  return [answer.forward.stations, answer.return?.stations ?? []].map((stations) =>
    stations.flatMap(({ at }) => (at.startsWith('firewalls/') ? [at] : [])),
  )
}

test('what goes round a firewall is led to it in both directions', () => {
  const estate = hall()
  const prover = proverOf(estate)
  const finding = prover.findings.find(
    ({ code, anchor }) => code === 'leak-round-firewall' && anchor === 'subnets/desk',
  )!
  const [first] = proposalsFor(prover, finding)
  expect(first).toMatchObject({
    harmless: true,
    what: 'lead what desk and vault send each other by wall',
  })
  const wall = ['firewalls/wall']
  expect(passed(estate, first!, 'interface:clerk', 'interface:safe')).toEqual([wall, wall])
  expect(passed(estate, first!, 'interface:safe', 'interface:clerk')).toEqual([wall, wall])
})

test('a firewall that meets answers alone is led both directions over a peering', () => {
  const estate = estateOfJson(randomEstate(2).estate)
  const prover = proverOf(estate)
  const finding = prover.findings.find(
    ({ code, anchor }) => code === 'hole-no-state' && anchor === 'subnets/c-s2',
  )!
  expect(proposalsFor(prover, finding, { trials: 4, proposals: 1 })).toMatchObject([
    { harmless: true, what: 'lead what c-s2 and b-s1 send each other by wall' },
  ])
})
