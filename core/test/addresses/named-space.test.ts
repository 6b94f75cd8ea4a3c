import {
  intersectRanges,
  rangeSet,
  rangeSetOf,
  sameRanges,
  type RangeSet,
} from '../../src/address/ranges'
import { prefixOf } from '../../src/address/prefix'
import { byOwner, namedSpaces, spaceTexts } from '../../src/addresses/named-space'
import { hopsByOwner } from '../../src/addresses/destinations'
import { compile, hopsJson } from '../../src/index'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'
import { modelOf } from '../trace/fixtures'

const WHOLE = rangeSetOf(['0.0.0.0/0', '::/0'].map(prefixOf))
const ranges = (...texts: string[]): RangeSet => rangeSetOf(texts.map(prefixOf))

const seeds = Array.from({ length: runs(20) }, (_, at) => at + 1)

test.each(seeds)('in estate %i every address has an owner, and a range is cut by owner', (seed) => {
  const model = compile(estateOfJson(randomEstate(seed).estate))
  const spaces = namedSpaces(model)
  expect(rangeSet(spaces.flatMap((one) => one.ranges))).toEqual(WHOLE)
  for (const asked of [WHOLE, ranges('10.1.0.0/17', '172.16.0.0/12', '198.51.100.0/24')]) {
    const cut = byOwner(model, asked)
    expect(sameRanges(rangeSet(cut.flatMap((one) => one.ranges)), asked)).toBe(true)
    for (const { owner, ranges: held } of cut) {
      const own = spaces.find((one) => one.owner === owner)!.ranges
      expect(held).toEqual(intersectRanges(own, asked))
    }
  }
})

test.each(seeds.slice(0, 5))('next hops by owner say of estate %i what the ranges say', (seed) => {
  const model = compile(estateOfJson(randomEstate(seed).estate))
  for (const subnet of model.subnets) {
    for (const { ranges: all, destinations } of hopsByOwner(model, hopsJson(model, subnet)).kinds) {
      const told = destinations.flatMap((one) => one.places)
      expect([...new Set(told)].sort((a, b) => a - b)).toEqual(all.map((_, at) => at))
      for (const { places } of destinations)
        expect(new Set(places.map((at) => JSON.stringify([all[at]!.way, all[at]!.cause])))).toEqual(
          new Set([JSON.stringify([all[places[0]!]!.way, all[places[0]!]!.cause])]),
        )
      expect(destinations.every(({ places, family }) => all[places[0]!]!.family === family)).toBe(
        true,
      )
    }
  }
})

const { estate } = modelOf({
  networks: { hub: { ranges: ['10.1.0.0/16'] } },
  subnets: { app: { network: 'hub', ranges: ['10.1.1.0/24'] } },
  sites: { yard: { ranges: ['172.20.0.0/16'] } },
  parties: { broker: { ranges: ['198.51.100.80/32'] } },
  plannedRanges: { later: { ranges: ['10.9.0.0/16'] } },
})
const told = (...texts: string[]): string[] => spaceTexts(compile(estate), ranges(...texts))

test('the whole of what an owner has is told by its name, a part by its prefixes', () => {
  expect(told('172.20.0.0/16')).toEqual(['yard'])
  expect(told('172.20.0.0/24')).toEqual(['172.20.0.0/24'])
  expect(told('198.51.100.80/32', '10.1.1.0/24')).toEqual(['broker', 'hub'])
})

test('what nobody has is told in one phrase, however many ranges it is', () => {
  expect(told('10.2.0.0/16', '10.4.0.0/14', '192.168.1.0/24')).toEqual(['private space nobody has'])
  expect(told('224.0.0.0/4')).toEqual(['reserved space'])
  expect(told('10.9.0.0/16')).toEqual(['later'])
})

test('all public addresses are the internet, with the owners inside it beside', () => {
  expect(told('0.0.0.0/0')).toEqual([
    'the internet',
    'yard',
    'broker',
    'hub',
    'later',
    'private space nobody has',
    'reserved space',
  ])
})
