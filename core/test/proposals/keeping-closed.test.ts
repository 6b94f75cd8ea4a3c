import {
  apply,
  compile,
  complete,
  isRefusal,
  proposalsFor,
  proverOf,
  trace,
  type Estate,
  type Question,
} from '../../src/index'
import { estateOfJson } from '../random/read'

/** A host that every rule lets in and out, in a subnet whose default leads nowhere. */
const shut = (): Estate =>
  estateOfJson({
    networks: { n: { ranges: ['10.1.0.0/16'] } },
    subnets: { s: { network: 'n', ranges: ['10.1.1.0/24'], routeTable: 't' } },
    interfaces: {
      web: {
        subnet: 's',
        addresses: ['10.1.1.10'],
        publicAddress: '203.0.113.7',
        ruleSets: ['open'],
      },
    },
    ruleSets: { open: { rules: [{ direction: 'out' }, { direction: 'in' }] } },
    gateways: { door: { kind: 'internet', network: 'n' } },
    routeTables: { t: { network: 'n', routes: [] } },
    publicAddresses: { '203.0.113.7': { reserved: true } },
  })

const verdict = (estate: Estate, question: Question): string => {
  const answer = trace(compile(estate), question)
  return isRefusal(answer) ? answer.message : answer.verdict
}

test('a route that would let the internet in comes with a rule that keeps it out', () => {
  const estate = shut()
  const prover = proverOf(estate)
  const finding = prover.findings.find(({ code }) => code === 'hole-no-way-out')!
  const [first] = proposalsFor(prover, finding)
  expect(first).toMatchObject({ harmless: true })
  expect(first!.what).toContain('deny by a rule of the estate what it would open besides')
  expect(first!.changes).toContainEqual({
    op: 'add',
    path: '/estateRules/0',
    value: {
      order: 0,
      action: 'deny',
      direction: 'in',
      peers: ['internet'],
      local: ['10.1.1.10/32'],
    },
  })
  const made = apply(estate, complete(estate, first!.changes))
  if (!made.ok) throw new Error(made.failure.message)
  const out = { from: 'interface:web', to: 'internet', protocol: 'tcp', port: 443 }
  const inwards = { from: 'internet', to: '203.0.113.7', protocol: 'tcp', port: 22 }
  expect([verdict(estate, out), verdict(made.estate, out)]).toEqual(['blackholed', 'works'])
  expect(verdict(made.estate, inwards)).toBe('blocked')
})

test('what works already is not cut by such a rule', () => {
  const prover = proverOf(shut())
  const finding = prover.findings.find(({ code }) => code === 'hole-no-way-out')!
  for (const { harmless, rows } of proposalsFor(prover, finding))
    expect([harmless, rows.filter(({ kind }) => kind === 'cut')]).toEqual([true, []])
})
