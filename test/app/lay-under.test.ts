import type { HopRangeJson } from '@salt-trail/core'
import { differingPieces, fareWithout } from '~/views/next-hops/lay-under'

const range = (from: string, to: string, by: string): HopRangeJson =>
  ({ from, to, leavesBy: by }) as unknown as HopRangeJson
const fare = (one: HopRangeJson): string => one.leavesBy ?? ''
const said = (a: HopRangeJson[], b: HopRangeJson[]) =>
  differingPieces(a, b, fare, fare).map((p) => `${p.from}-${p.to} ${fare(p.a)}|${fare(p.b)}`)

test('only spans in which two subnets fare differently, in the fewest pieces', () => {
  const a = [
    range('0.0.0.0', '9.255.255.255', 'nat'),
    range('10.0.0.0', '10.255.255.255', 'local'),
    range('11.0.0.0', '255.255.255.255', 'nat'),
  ]
  const b = [
    range('0.0.0.0', '10.127.255.255', 'nat'),
    range('10.128.0.0', '10.255.255.255', 'local'),
    range('11.0.0.0', '255.255.255.255', 'door'),
  ]
  expect(said(a, b)).toEqual([
    '10.0.0.0-10.127.255.255 local|nat',
    '11.0.0.0-255.255.255.255 nat|door',
  ])
  expect(said(a, a)).toEqual([])
})

test('neighbours that differ in the same way are one piece', () => {
  const a = [
    range('::', '2000::', 'x'),
    range('2000::1', 'ffff:ffff:ffff:ffff:ffff:ffff:ffff:ffff', 'x'),
  ]
  const b = [range('::', 'ffff:ffff:ffff:ffff:ffff:ffff:ffff:ffff', 'y')]
  expect(said(a, b)).toEqual(['::-ffff:ffff:ffff:ffff:ffff:ffff:ffff:ffff x|y'])
  expect(said(a, [])).toEqual([])
})

test('a loss at each subnet itself is the same loss', () => {
  const lost = (object: string): HopRangeJson =>
    ({ way: [], seenAs: [], cause: { code: 'drop-route', object } }) as unknown as HopRangeJson
  expect(fareWithout(['subnets/a'])(lost('subnets/a'))).toBe(
    fareWithout(['subnets/b'])(lost('subnets/b')),
  )
  expect(fareWithout(['subnets/a'])(lost('subnets/c'))).not.toBe(
    fareWithout(['subnets/b'])(lost('subnets/b')),
  )
})
