import { waysInBetween, waysInOf, type WaysIn } from '../../src/index'
import { modelOf } from '../trace/fixtures'

const rule = (ports: number[], peers: string[]) => ({
  direction: 'in',
  protocol: 'tcp',
  ports,
  peers,
})
const SHORE = {
  networks: { shore: { ranges: ['10.1.0.0/16'], defaultRouteTable: 'main' } },
  subnets: { quay: { network: 'shore', ranges: ['10.1.1.0/24'] } },
  routeTables: {
    main: { network: 'shore', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
  },
  gateways: { door: { kind: 'internet', network: 'shore' } },
  interfaces: {
    crane: host('203.0.113.10'),
    hoist: { ...host('203.0.113.11'), addresses: ['10.1.1.11'] },
  },
  ruleSets: { watch: { rules: [rule([443], ['any']), { direction: 'out' }] } },
}
function host(publicAddress: string) {
  return { subnet: 'quay', addresses: ['10.1.1.10'], publicAddress, ruleSets: ['watch'] }
}
function waysInto(estate: Record<string, unknown>): WaysIn {
  const model = modelOf(estate)
  return waysInOf(model, model.subnets[model.index.subnets.get('quay')!]!)
}
const told = (before: Record<string, unknown>, after: Record<string, unknown>): string[] =>
  waysInBetween(waysInto(before), waysInto(after)).map(
    ({ fate, before: was, after: now }) => `${fate} ${(now ?? was)!.to}`,
  )

test('a way in that is opened, closed or altered comes before those that stay', () => {
  const { publicAddress: _, ...inner } = SHORE.interfaces.crane
  const shut = { ...SHORE, interfaces: { ...SHORE.interfaces, crane: inner } }
  expect(told(SHORE, SHORE)).toEqual(['same interfaces/crane', 'same interfaces/hoist'])
  expect(told(shut, SHORE)).toEqual(['opened interfaces/crane', 'same interfaces/hoist'])
  expect(told(SHORE, shut)).toEqual(['closed interfaces/crane', 'same interfaces/hoist'])
  const wider = { watch: { rules: [rule([443, 22], ['any']), { direction: 'out' }] } }
  expect(told(SHORE, { ...SHORE, ruleSets: wider })).toEqual([
    'altered interfaces/crane',
    'altered interfaces/hoist',
  ])
})

test('a subnet that only one state has is opened or closed as a whole', () => {
  const all = waysInto(SHORE)
  expect(waysInBetween(null, all).map(({ fate }) => fate)).toEqual(['opened', 'opened'])
  expect(waysInBetween(all, null).map(({ fate }) => fate)).toEqual(['closed', 'closed'])
})
