import { compile, trace, type Trace } from '../../src/index'
import { estateOfJson } from '../random/read'

/** One network, and one site behind so many private gateways that all learn and announce the same. */
const behindGateways = (count: number) =>
  compile(
    estateOfJson({
      networks: { n: { ranges: ['10.0.0.0/16'] } },
      subnets: { a: { network: 'n', ranges: ['10.0.0.0/24'], routeTable: 't' } },
      routeTables: { t: { network: 'n', learn: 'all' } },
      interfaces: { h: { subnet: 'a', addresses: ['10.0.0.9'] } },
      sites: { s: { ranges: ['172.20.0.0/16'] } },
      gateways: Object.fromEntries(
        Array.from({ length: count }, (_, at) => [
          `g${at}`,
          { kind: 'private', network: 'n', site: 's', announces: ['10.0.0.0/16'] },
        ]),
      ),
    }),
  )
const asked = (count: number): Trace =>
  trace(behindGateways(count), {
    ...{ from: 'interface:h', to: 'site:s', protocol: 'tcp', port: 443 },
  }) as Trace

test('few ways there and back are told in all pairs', () => {
  expect(asked(2).branches).toHaveLength(4)
  expect(asked(3).branches).toHaveLength(9)
})

// 256 gateways made 65,536 branches, which took minutes and gigabytes.
test('of many, ways there that end alike share their answers, and nothing is left out', () => {
  const { branches, truncated, verdict } = asked(256)
  expect({ verdict, truncated }).toEqual({ verdict: 'works', truncated: false })
  expect(branches.length).toBeLessThan(600)
  const all = Array.from({ length: 256 }, (_, at) => `gateways/g${at}`).sort()
  expect([...new Set(branches.flatMap(({ way }) => way))].sort()).toEqual(all)
  const back = branches.flatMap((one) => one.return!.stations.map(({ at }) => at))
  expect([...new Set(back.filter((at) => at.startsWith('gateways/')))].sort()).toEqual(all)
  expect(JSON.stringify(branches).length).toBeLessThan(10_000_000)
})
