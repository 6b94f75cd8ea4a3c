import fc from 'fast-check'
import {
  casesOf,
  isRefusal,
  trace,
  type Case,
  type Cases,
  type CasesQuestion,
  type Model,
} from '../../src/index'
import { randomEstate } from '../random/estate'
import { random } from '../random/random'
import { runs } from '../random/runs'
import { modelOf } from '../trace/fixtures'

const quay = {
  networks: { quay: { ranges: ['10.1.0.0/16', '2001:db8:1::/56'], defaultRouteTable: 'out' } },
  subnets: { desk: { network: 'quay', ranges: ['10.1.1.0/24', '2001:db8:1:1::/64'] } },
  interfaces: {
    'desk-1': {
      subnet: 'desk',
      addresses: ['10.1.1.10', '2001:db8:1:1::10'],
      ruleSets: ['desk'],
    },
    'desk-2': { subnet: 'desk', addresses: ['10.1.1.11'], ruleSets: ['desk'] },
  },
  routeTables: { out: { network: 'quay', routes: [{ to: '::/0', via: { gateway: 'door' } }] } },
  gateways: { door: { kind: 'internet', network: 'quay' } },
  ruleSets: {
    desk: {
      rules: [
        { direction: 'out', protocol: 'tcp', ports: ['8000-8079', 8090], peers: ['any'] },
        { direction: 'out', protocol: 'tcp', ports: [443], peers: ['any'] },
        { direction: 'out', protocol: 'icmpv6', peers: ['any'] },
      ],
    },
  },
}

const answered = (model: Model, question: CasesQuestion): Cases => {
  const answer = casesOf(model, question)
  if (isRefusal(answer)) throw new Error(answer.message)
  return answer
}
const said = ({ family, ports, verdict, cause }: Case): string =>
  `IPv${family} ${ports ? `${ports.from}-${ports.to} ` : ''}${cause?.code ?? verdict}`
const at = (port: number) => ({ from: port, to: port })

test('both families are answered where both ends have both', () => {
  const { cases } = answered(modelOf(quay), {
    from: 'interface:desk-1',
    to: 'internet',
    protocol: 'tcp',
    ports: at(443),
  })
  expect(cases.map(said)).toEqual(['IPv4 443-443 no-route', 'IPv6 443-443 works'])
  expect(cases[1]!.leavesBy).toBe('gateways/door')
})

test('one family is answered where an end has one', () => {
  const { cases } = answered(modelOf(quay), {
    from: 'interface:desk-2',
    to: 'internet',
    protocol: 'tcp',
    ports: at(443),
  })
  expect(cases.map(said)).toEqual(['IPv4 443-443 no-route'])
})

test('ports are cut where they fare otherwise, and only there', () => {
  const { cases, more } = answered(modelOf(quay), {
    from: 'interface:desk-1',
    to: 'internet',
    protocol: 'tcp',
    ports: { from: 8000, to: 8100 },
  })
  expect(cases.filter(({ family }) => family === 6).map(said)).toEqual([
    'IPv6 8000-8079 works',
    'IPv6 8080-8089 denied-interface',
    'IPv6 8090-8090 works',
    'IPv6 8091-8100 denied-interface',
  ])
  expect(more).toBeNull()
})

test('ICMP over IPv6 is asked as ICMPv6', () => {
  const { cases } = answered(modelOf(quay), {
    from: 'interface:desk-1',
    to: 'internet',
    protocol: 'icmp',
  })
  expect(cases.map(({ question }) => question.protocol)).toEqual(['icmp', 'icmpv6'])
  expect(cases.map(said)).toEqual(['IPv4 denied-interface', 'IPv6 works'])
})

test('what neither family can be asked is refused as a trace is', () => {
  const model = modelOf(quay)
  const unknown = casesOf(model, { from: 'interface:desk-9', to: 'internet', ports: at(443) })
  expect(isRefusal(unknown) && unknown.code).toBe('unknown-object')
  const apart = casesOf(model, {
    from: 'interface:desk-2',
    to: 'interface:desk-1@2001:db8:1:1::10',
    ports: at(443),
  })
  expect(isRefusal(apart) && apart.code).toBe('no-common-family')
})

test('more spans than are told are said to be there', () => {
  const ports = Array.from({ length: 300 }, (_, index) => 1000 + 2 * index)
  const rules = [{ direction: 'out', protocol: 'tcp', ports, peers: ['any'] }]
  const model = modelOf({ ...quay, ruleSets: { desk: { rules } } })
  const { cases, more } = answered(model, {
    from: 'interface:desk-1',
    to: 'internet',
    ports: { from: 1000, to: 1599 },
  })
  const last = cases.filter(({ family }) => family === 6).at(-1)!
  expect(more).toEqual({ from: last.ports!.to + 1, to: 1599 })
})

test('every port of a case is answered as the case says, in random estates', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1_000_000 }), (seed) => {
      const { estate, ends } = randomEstate(seed)
      const model = modelOf(estate)
      const { pick, number } = random(seed + 1)
      const [from, to] = [pick(ends), pick(ends)]
      const first = 1 + number(60_000)
      const ports = { from: first, to: first + 1 + number(3_000) }
      const answer = casesOf(model, { from, to, ports })
      if (isRefusal(answer)) return
      const covered = answer.cases.filter(({ family }) => family === answer.cases[0]!.family)
      expect(covered[0]!.ports!.from).toBe(ports.from)
      expect(covered.at(-1)!.ports!.to).toBe((answer.more?.from ?? ports.to + 1) - 1)
      for (const { family, ports: span, verdict, cause } of answer.cases) {
        const port = span!.from + number(span!.to - span!.from + 1)
        const one = trace(model, { from, to, family, port }, { evidence: false })
        if (isRefusal(one)) throw new Error(one.message)
        expect([port, one.verdict, one.cause]).toEqual([port, verdict, cause])
      }
    }),
    { numRuns: runs(60) },
  )
})

test('a search that is ended tells the ports it has not looked at', () => {
  const question = { from: 'interface:desk-1', to: 'internet', ports: { from: 8000, to: 8100 } }
  const answer = casesOf(modelOf(quay), question, () => true)
  if (isRefusal(answer)) throw new Error(answer.message)
  expect(answer.cases.map(said)).toContain('IPv6 8000-8079 works')
  expect(answer.more).toEqual({ from: 8080, to: 8100 })
})
