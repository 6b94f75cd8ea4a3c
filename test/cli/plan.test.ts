import { z } from 'zod'
import { packetRow } from '../../contract/consequences'
import { change } from '../../contract/parts'
import { file, saltTrail } from './running'

const planJson = z.strictObject({
  steps: z.array(
    z.strictObject({
      what: z.string(),
      changes: z.array(change),
      opened: z.array(packetRow),
      cut: z.array(packetRow),
      gap: z.array(z.string()),
    }),
  ),
  gapless: z.boolean(),
  complete: z.boolean(),
})

const head =
  'format: salt-trail/1\nname: Ferry\nnetworks: { n: { ranges: [10.0.0.0/16] } }\ninterfaces: { a: { subnet: s, addresses: [10.0.1.10] } }\ngateways: { door: { kind: internet, network: n } }\n'
const subnet = (table: string): string =>
  `subnets: { d: { network: n, ranges: [10.0.2.0/24], routeTable: out }, s: { network: n, ranges: [10.0.1.0/24], routeTable: ${table} } }\n`
const tables = (name: string, nat: string): string =>
  `routeTables: { out: { network: n, routes: [{ to: 0.0.0.0/0, via: { gateway: door } }] }, ${name}: { network: n, routes: [{ to: 0.0.0.0/0, via: { nat: ${nat} } }] } }\n`
const nat = (id: string, address: string): string =>
  `publicAddresses: { ${address}: {} }\nnats: { ${id}: { network: n, placement: { subnet: d }, addresses: [${address}] } }\n`
const old = file(
  'old-plan.yaml',
  `${head}${subnet('x')}${tables('x', 'one')}${nat('one', '203.0.113.1')}`,
)
const now = file(
  'new-plan.yaml',
  `${head}${subnet('y')}${tables('y', 'two')}${nat('two', '203.0.113.2')}`,
)

test('plan prints an order without a gap, as Markdown and as JSON', () => {
  const { status, out } = saltTrail('plan', old, now)
  expect(status).toBe(0)
  expect(out).toMatch(/^# Plan for Ferry\n/)
  expect(out.indexOf('Add nats/two')).toBeLessThan(out.indexOf('Change routeTable of subnets/s'))
  expect(out.indexOf('Change routeTable of subnets/s')).toBeLessThan(out.indexOf('Remove nats/one'))
  const { steps, gapless } = planJson.parse(JSON.parse(saltTrail('plan', old, now, '--json').out))
  expect(gapless).toBe(true)
  expect(steps.every(({ gap }) => gap.length === 0)).toBe(true)
})

test('nothing to do is status 0, a file that is wrong status 2', () => {
  expect(saltTrail('plan', old, old)).toMatchObject({ status: 0, out: 'Nothing differs.\n' })
  expect(saltTrail('plan', old, 'nowhere.yaml').status).toBe(2)
})
