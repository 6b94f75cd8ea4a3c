import type { Branch, StationJson } from '@salt-trail/core'
import fc from 'fast-check'
import { alignLanes, stopsOf } from '~/views/trace/align'

const packet = { src: '10.0.0.1', dst: '10.0.0.2', protocol: 'tcp', srcPort: 1, dstPort: 2 }
const station = (text: string): StationJson => {
  const [kind, at] = text.includes(' ')
    ? (text.split(' ') as [StationJson['kind'], string])
    : (['gateway', text] as const)
  return { at, kind, decision: '', packet, evidence: {} }
}
const branch = (there: string[], back: string[]): Branch =>
  ({
    forward: { outcome: 'delivered', stations: there.map(station) },
    return: { outcome: 'delivered', stations: back.map(station) },
  }) as unknown as Branch
const shape = (there: string[], back: string[]): string[] =>
  alignLanes(branch(there, back)).map((c) => `${c.there?.at ?? '-'}|${c.back?.at ?? '-'}`)

test('what both directions pass stands in one column, a detour leaves a gap', () => {
  expect(shape(['a', 'wall', 'b'], ['b', 'direct', 'a'])).toEqual([
    'a|a',
    'wall|-',
    '-|direct',
    'b|b',
  ])
})

test('look-ups between the same places share a column', () => {
  expect(shape(['a', 'lookup t1', 'b'], ['b', 'lookup t2', 'a'])).toEqual(['a|a', 't1|t2', 'b|b'])
})

test('an element that is passed weighs more than a table that is asked', () => {
  expect(
    shape(
      ['a', 'lookup private', 'nat', 'lookup public', 'door'],
      ['door', 'nat', 'lookup public', 'a'],
    ),
  ).toEqual(['a|a', 'private|public', 'nat|nat', 'public|-', 'door|door'])
})

test('the rules at a firewall’s interfaces belong to the firewall’s stop', () => {
  const lane = [
    'a',
    'lookup t',
    'rules wall-in',
    'firewall wall',
    'rules wall-out',
    'lookup u',
    'b',
  ].map(station)
  expect(stopsOf(lane).map((stop) => [stop.at, stop.stations.length])).toEqual([
    ['a', 1],
    ['t', 1],
    ['wall', 3],
    ['u', 1],
    ['b', 1],
  ])
})

test('nothing comes back where nothing arrived', () => {
  const lost = { ...branch(['a', 'lookup t'], []), return: null } as Branch
  expect(alignLanes(lost).map((c) => [c.there?.at, c.back])).toEqual([
    ['a', null],
    ['t', null],
  ])
})

test('every stop of both directions stands in exactly one column, in its order', () => {
  const lane = fc.array(fc.constantFrom('a', 'b', 'c', 'lookup t', 'lookup u', 'd'), {
    maxLength: 9,
  })
  fc.assert(
    fc.property(lane, lane, (there, back) => {
      const columns = alignLanes(branch(there, back))
      const names = (stops: { at: string }[]): string[] => stops.map((stop) => stop.at)
      expect(names(columns.flatMap((c) => c.there ?? []))).toEqual(
        names(stopsOf(there.map(station))),
      )
      expect(names(columns.flatMap((c) => c.back ?? []))).toEqual(
        names(stopsOf(back.map(station)).reverse()),
      )
      expect(columns.every((c) => c.there !== null || c.back !== null)).toBe(true)
    }),
  )
})
