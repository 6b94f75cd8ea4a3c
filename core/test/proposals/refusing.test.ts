import {
  compile,
  isRefusal,
  proposalsFor,
  proverOf,
  trace,
  type Estate,
  type FindingCode,
  type Proposal,
  type Question,
} from '../../src/index'
import { made } from '../changes/made'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'

const LET_IN = { direction: 'in', protocol: 'tcp', ports: [443], peers: ['any'] }
const OUT = { direction: 'out' }

/** Two hosts that let anybody in, of which one has a public address; `more` replaces sections. */
const yard = (more: object = {}): Estate =>
  estateOfJson({
    networks: { quay: { ranges: ['10.1.0.0/16'] } },
    subnets: { shed: { network: 'quay', ranges: ['10.1.1.0/24'], routeTable: 'inner' } },
    interfaces: {
      crane: {
        subnet: 'shed',
        addresses: ['10.1.1.10'],
        publicAddress: '203.0.113.10',
        ruleSets: ['watch'],
      },
      winch: { subnet: 'shed', addresses: ['10.1.1.11'], ruleSets: ['watch'] },
    },
    ruleSets: { watch: { rules: [LET_IN, OUT] } },
    gateways: { door: { kind: 'internet', network: 'quay' } },
    services: { store: { ranges: ['198.51.100.0/26'] } },
    routeTables: {
      inner: { network: 'quay', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
    },
    ...more,
  })

function best(estate: Estate, code: FindingCode): Proposal | undefined {
  const prover = proverOf(estate)
  return proposalsFor(
    prover,
    prover.findings.find((one) => one.code === code)!,
  )[0]
}

const verdictAfter = (estate: Estate, proposal: Proposal, question: Question): string => {
  const answer = trace(compile(made(estate, proposal.changes)), question)
  return isRefusal(answer) ? 'refused' : answer.verdict
}

test('what a site asks and never hears an answer to is refused where nothing leads back', () => {
  const estate = estateOfJson(randomEstate(15).estate)
  const prover = proverOf(estate)
  const lost = prover.findings.find(
    ({ code, sentence }) =>
      code === 'hole-no-way-back' && sentence.startsWith('Packets from yard reach d-s1-h0'),
  )!
  const [proposal] = proposalsFor(prover, lost, { trials: 12, proposals: 1 })
  expect(proposal).toMatchObject({
    harmless: true,
    what: 'refuse what yard asks of d-s1-h0 and d-s1-h1 at once, since no answer comes back',
  })
  expect(proposal!.rows).toEqual([])
  expect(verdictAfter(estate, proposal!, lost.evidence.question!)).toBe('blocked')
})

test('what can be made to work is not refused', () => {
  const estate = yard({ routeTables: { inner: { network: 'quay', routes: [] } } })
  expect(best(estate, 'hole-no-way-back')!.what).not.toMatch(/^refuse/)
})

test('what hosts may send and has no way at all is refused where they send it', () => {
  const estate = yard({ gateways: {}, routeTables: { inner: { network: 'quay' } } })
  const proposal = best(estate, 'hole-no-way-out')!
  expect(proposal).toMatchObject({
    harmless: true,
    what: 'refuse what crane and winch ask of the internet at once, since no answer comes back',
  })
  expect(proposal.changes).toContainEqual({
    op: 'add',
    path: '/estateRules/0',
    value: {
      ...{ order: 0, action: 'deny', direction: 'out' },
      ...{ local: ['10.1.1.10/32', '10.1.1.11/32'], peers: ['internet'] },
    },
  })
})

test('of very many hosts the ranges of their subnet are named', () => {
  const hosts = Array.from({ length: 30 }, (_, at) => [
    `desk-${at}`,
    { subnet: 'shed', addresses: [`10.1.1.${at + 10}`], ruleSets: ['watch'] },
  ])
  const estate = yard({
    gateways: {},
    routeTables: { inner: { network: 'quay' } },
    interfaces: Object.fromEntries(hosts),
  })
  const { what, changes } = best(estate, 'hole-no-way-out')!
  expect(what).toBe('refuse what shed asks of the internet at once, since no answer comes back')
  expect(changes.at(-1)).toMatchObject({ value: { local: ['10.1.1.0/24'], peers: ['internet'] } })
})
