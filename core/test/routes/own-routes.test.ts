import { compile } from '../../src/index'
import { parseAddress } from '../../src/address/address'
import { lookUp } from '../../src/routes/look-up'
import { ownRoutes } from '../../src/routes/own-routes'
import { random } from '../random/random'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'

const TAGS = ['a', 'b', 'c', 'd']

test('among its own routes a host finds the winners it finds among all', () => {
  let limited = 0
  for (let seed = 1; seed <= runs(60); seed++) {
    const r = random(seed)
    const routes = Array.from({ length: 12 }, () => ({
      to: r.pick(['0.0.0.0/0', '198.51.100.0/24', '198.51.100.64/26', '10.0.0.0/8']),
      via: r.pick(['drop', { gateway: 'door' }]),
      priority: r.pick([100, 200, 1000]),
      ...(r.chance(70) ? { onlyTags: [r.pick(TAGS), r.pick(TAGS)] } : {}),
    }))
    const model = compile(
      estateOfJson({
        networks: {
          n: { ranges: ['10.0.0.0/16'], behaviour: 'priority-routed', defaultRouteTable: 't' },
        },
        subnets: { s: { network: 'n', ranges: ['10.0.0.0/24'] } },
        gateways: { door: { kind: 'internet', network: 'n' } },
        routeTables: { t: { network: 'n', routes } },
      }),
    )
    const carried = TAGS.filter(() => r.chance(40))
    const asking = { hasTag: (key: string) => carried.includes(key), hasPublicAddress: () => false }
    const own = {
      ...asking,
      own: (all: Parameters<typeof ownRoutes>[0]) => ownRoutes(all, () => carried),
    }
    for (const text of ['198.51.100.1', '198.51.100.70', '192.0.2.1', '10.9.0.1', '10.0.0.9']) {
      const ask = (by: typeof asking) =>
        lookUp(model, model.subnets[0]!, parseAddress(text)!, by, () => true)
      expect(ask(own).winners).toEqual(ask(asking).winners)
      limited += ask(asking).candidates().length - ask(own).candidates().length
      expect(
        ask(own)
          .candidates()
          .map(({ reason }) => reason),
      ).not.toContain('tag-not-carried')
    }
  }
  expect(limited).toBeGreaterThan(100)
})
