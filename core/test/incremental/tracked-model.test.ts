import fc from 'fast-check'
import { cached, track } from '../../src/incremental/cells'
import { trackedModel } from '../../src/incremental/tracked-model'

interface Small {
  readonly list: readonly object[]
  readonly map: ReadonlyMap<string, object>
  readonly nested: { readonly names: ReadonlyMap<string, number>; readonly all: readonly string[] }
  readonly whole: { readonly size: number }
}

const SHAPE = { nested: new Set(['nested']), isWhole: (path: string) => path === 'nested.all' }
const [A, B, C] = [{}, {}, {}]
const FIRST: Small = {
  list: [A, B],
  map: new Map([['a', A]]),
  nested: { names: new Map([['a', 0]]), all: ['a'] },
  whole: { size: 1 },
}

/** Reads of a model by name, each cached, and how often each was computed. */
function reading(reads: Record<string, (model: Small) => unknown>) {
  const tracked = trackedModel(FIRST, SHAPE)
  const map = new Map<string, unknown>()
  const counts: Record<string, number> = {}
  const ask = (): Record<string, unknown> =>
    track(() =>
      Object.fromEntries(
        Object.entries(reads).map(([name, read]) => [
          name,
          cached(map, name, () => {
            counts[name] = (counts[name] ?? 0) + 1
            return read(tracked.model)
          }),
        ]),
      ),
    )
  return {
    ask,
    change: tracked.change,
    /** The names of what a change makes to be computed again. */
    again: (next: Small): string[] => {
      const before = { ...counts }
      tracked.change(next)
      ask()
      return Object.keys(reads).filter((name) => counts[name] !== before[name])
    },
  }
}

const READS = {
  'entry 0': ({ list }: Small) => list[0],
  'entry 2': ({ list }: Small) => list[2],
  length: ({ list }: Small) => list.length,
  'all entries': ({ list }: Small) => [...list],
  'key a': ({ map }: Small) => map.get('a'),
  'has key b': ({ map }: Small) => map.has('b'),
  'all keys': ({ map }: Small) => [...map.keys()],
  'nested name': ({ nested }: Small) => nested.names.get('a'),
  'nested whole': ({ nested }: Small) => nested.all[0],
  whole: ({ whole }: Small) => whole.size,
}

test('a change of one entry invalidates who read it, and nothing else', () => {
  const { ask, again } = reading(READS)
  ask()
  expect(again({ ...FIRST, list: [C, B] })).toEqual(['entry 0', 'all entries'])
})

test('a longer list invalidates who read its length, or the entry that was not there', () => {
  const { ask, again } = reading(READS)
  ask()
  expect(again({ ...FIRST, list: [A, B, C] })).toEqual(['entry 2', 'length', 'all entries'])
})

test('a new key of a map invalidates who asked for it, and who read all of it', () => {
  const { ask, again } = reading(READS)
  ask()
  expect(again({ ...FIRST, map: new Map([...FIRST.map, ['b', B]]) })).toEqual([
    'has key b',
    'all keys',
  ])
})

test('a map with the same entries invalidates nobody', () => {
  const { ask, again } = reading(READS)
  ask()
  expect(again({ ...FIRST, map: new Map(FIRST.map) })).toEqual([])
})

test('properties of a nested object are read one by one, and values as a whole', () => {
  const { ask, again } = reading(READS)
  ask()
  const names = new Map([['a', 1]])
  expect(again({ ...FIRST, nested: { ...FIRST.nested, names } })).toEqual(['nested name'])
  const next = { ...FIRST, nested: { names, all: ['a', 'b'] } }
  expect(again(next)).toEqual(['nested whole'])
  expect(again({ ...next, whole: { size: 2 } })).toEqual(['whole'])
})

test('reads outside of track are not noted, and see the present state', () => {
  const { model, change } = trackedModel(FIRST, SHAPE)
  expect(model.list[0]).toBe(A)
  change({ ...FIRST, list: [C] })
  expect([model.list[0], model.list.length, 1 in model.list]).toEqual([C, 1, false])
})

test('after any changes, what is asked is what the present state holds', () => {
  const object = fc.constantFrom(A, B, C)
  const state = fc.record({
    list: fc.array(object, { maxLength: 4 }),
    map: fc
      .uniqueArray(fc.tuple(fc.constantFrom('a', 'b'), object), { selector: ([key]) => key })
      .map((entries) => new Map(entries)),
    nested: fc.record({
      names: fc.nat(2).map((value) => new Map([['a', value]])),
      all: fc.array(fc.constantFrom('a', 'b'), { maxLength: 2 }),
    }),
    whole: fc.record({ size: fc.nat(2) }),
  })
  fc.assert(
    fc.property(fc.array(state, { minLength: 1, maxLength: 5 }), (states) => {
      const { ask, change } = reading(READS)
      for (const next of states) {
        change(next)
        for (const [name, value] of Object.entries(ask()))
          expect([name, value]).toEqual([name, READS[name as keyof typeof READS](next)])
      }
    }),
  )
})
