import {
  isRefusal,
  proposalsFor,
  proposalsForQuestion,
  proverOf,
  trace,
  type Estate,
  type Proposal,
} from '../../src/index'
import { estateOfJson } from '../random/read'

/** What a site's line and a spoke are joined by: a transit, to which the line itself may belong. */
interface Joined {
  readonly announces: readonly string[]
  readonly lineAt: 'hub' | 'transit'
}

const BY_TRANSIT = { to: '172.20.0.0/24', via: { transit: 'router' } }

function harbour({ announces, lineAt }: Joined): Estate {
  const isAtHub = lineAt === 'hub'
  return estateOfJson({
    networks: { hub: { ranges: ['10.1.0.0/16'] }, spoke: { ranges: ['10.2.0.0/16'] } },
    subnets: {
      inner: { network: 'hub', ranges: ['10.1.1.0/24'], routeTable: 'inner' },
      pier: { network: 'spoke', ranges: ['10.2.1.0/24'], routeTable: 'pier' },
      quay: { network: 'spoke', ranges: ['10.2.2.0/24'], routeTable: 'quay' },
    },
    interfaces: {
      crane: { subnet: 'pier', addresses: ['10.2.1.5'], ruleSets: ['open'] },
      winch: { subnet: 'quay', addresses: ['10.2.2.5'], ruleSets: ['open'] },
    },
    ruleSets: {
      open: {
        rules: [
          { direction: 'in', peers: ['any'] },
          { direction: 'out', peers: ['any'] },
        ],
      },
    },
    routeTables: {
      inner: {
        network: 'hub',
        routes: [{ to: '172.20.0.0/24', via: { gateway: 'line' } }],
      },
      pier: { network: 'spoke', routes: [BY_TRANSIT] },
      quay: { network: 'spoke', routes: [BY_TRANSIT] },
    },
    sites: { harbour: { ranges: ['172.20.0.0/24'] } },
    gateways: {
      line: { kind: 'private', site: 'harbour', announces, ...(isAtHub ? { network: 'hub' } : {}) },
    },
    transits: {
      router: {
        attachments: {
          hub: { network: 'hub', subnets: ['inner'], table: 'all' },
          spoke: { network: 'spoke', subnets: ['pier', 'quay'], table: 'all' },
          ...(isAtHub ? {} : { line: { gateway: 'line', table: 'all' } }),
        },
        tables: {
          all: {
            learn: 'all',
            ...(isAtHub ? { routes: [{ to: '172.20.0.0/24', via: 'hub' }] } : {}),
          },
        },
      },
    },
  })
}

const fromHarbour = { from: 'site:harbour', to: 'interface:crane', protocol: 'tcp', port: 443 }
const verdictOf = ({ after }: Proposal, question: typeof fromHarbour): string => {
  const answer = trace(after, question)
  return isRefusal(answer) ? answer.message : answer.verdict
}

test('what a site’s gateway does not announce is announced, and led on from the gateway', () => {
  const prover = proverOf(harbour({ announces: ['10.1.0.0/16'], lineAt: 'hub' }))
  const finding = prover.findings.find(({ code }) => code === 'hole-not-announced')!
  expect(finding.sentence).toContain('line does not announce them to harbour')
  const [first] = proposalsFor(prover, finding)
  expect(first).toMatchObject({ harmless: true })
  expect(first!.what).toMatch(
    /^announce 10\.2\.\S+ by line; lead \S+ on by transit router from line$/,
  )
  expect(verdictOf(first!, fromHarbour)).toBe('works')
})

test('what came in by a gateway for another network is led on by a table that the gateway gets', () => {
  const prover = proverOf(harbour({ announces: ['10.0.0.0/8'], lineAt: 'hub' }))
  const [first] = proposalsForQuestion(prover, fromHarbour)
  expect(first!.changes).toMatchObject([
    {
      op: 'add',
      path: '/routeTables/line-table',
      value: { network: 'hub', routes: [{ to: '10.2.0.0/16', via: { transit: 'router' } }] },
    },
    { op: 'add', path: '/gateways/line/routeTable', value: 'line-table' },
  ])
})

test('a range is announced for one subnet alone where its network’s opens more', () => {
  const prover = proverOf(harbour({ announces: ['10.1.0.0/16'], lineAt: 'transit' }))
  const question = { ...fromHarbour, from: 'interface:crane', to: 'site:harbour' }
  const [first] = proposalsForQuestion(prover, question)
  expect(first).toMatchObject({
    harmless: true,
    what: 'announce 10.2.1.0/24 by line',
    changes: [{ op: 'add', path: '/gateways/line/announces/-', value: '10.2.1.0/24' }],
  })
  expect(verdictOf(first!, question)).toBe('works')
})
