import { exitsOf, findAll, hopsJson } from '../../src/index'
import { modelOf } from '../trace/fixtures'

const estate = {
  regions: { north: { zones: ['north-1'] } },
  networks: { net: { region: 'north', ranges: ['10.0.0.0/16'] } },
  subnets: {
    app: {
      network: 'net',
      ranges: ['10.0.2.0/24'],
      namedRanges: { pods: ['10.0.8.0/24'] },
      routeTable: 'table',
    },
  },
  interfaces: { host: { subnet: 'app', addresses: ['10.0.2.10', '10.0.8.10'] } },
  gateways: { door: { kind: 'internet', network: 'net' } },
  nats: {
    nat: {
      network: 'net',
      placement: { region: 'north' },
      addresses: ['203.0.113.10'],
      serves: { ranges: ['pods'] },
    },
  },
  routeTables: { table: { network: 'net', routes: [{ to: '0.0.0.0/0', via: { nat: 'nat' } }] } },
}
const model = modelOf(estate)
const [app] = model.subnets

test('a host with addresses in two ranges of its subnet is of a kind for each', () => {
  const { kinds } = hopsJson(model, app!)
  const seen = kinds.map(({ hosts, ranges }) => [
    hosts,
    ranges.some(({ seenAs }) => seenAs.includes('203.0.113.10')),
    ranges.some(({ cause }) => cause?.code === 'nat-does-not-serve'),
  ])
  expect(seen).toEqual([
    [['interfaces/host'], false, true],
    [['interfaces/host'], true, false],
  ])
})

test('what shows the way of its second address asks from that address', () => {
  const questions = exitsOf(model, app!).internet.map(({ cause, question }) => [
    cause?.code ?? 'leaves',
    question.from,
  ])
  expect(questions).toContainEqual(['nat-does-not-serve', 'interface:host'])
  expect(questions).toContainEqual(['leaves', 'interface:host@10.0.8.10'])
})

test('a translator that only its second address uses is not idle', () => {
  const codes = findAll(model)!.findings.map(({ code, anchor }) => `${code} at ${anchor}`)
  expect(codes).toContain('hole-nat-out-of-reach at nats/nat')
  expect(codes).not.toContain('idle-nat at nats/nat')
})
