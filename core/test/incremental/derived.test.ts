import {
  cached,
  invalidate,
  noObservers,
  observe,
  takeObservers,
  track,
} from '../../src/incremental/cells'
import { derived, sameItems, takenOver, type Outliving } from '../../src/incremental/derived'

/** A root with one property that can be changed, and a count of what was computed of it. */
function root(first: number) {
  const observers = noObservers()
  let value = first
  return {
    computed: 0,
    get value(): number {
      observe(observers)
      return value
    },
    change: (next: number): void => {
      value = next
      invalidate(takeObservers(observers))
    },
  }
}
type Root = ReturnType<typeof root>

test('a derived value is computed once for each root and keys', () => {
  const sum = derived((from: Root, a: number, b: number) => (from.computed++, from.value + a + b))
  const [one, other] = [root(1), root(10)]
  expect([sum(one, 1, 2), sum(one, 1, 2), sum(one, 12, 0), sum(other, 1, 2)]).toEqual([
    4, 4, 13, 13,
  ])
  expect([one.computed, other.computed]).toEqual([2, 1])
})

test('two derivations with the same keys do not share values', () => {
  const double = derived((_: Root, key: string) => key + key)
  const upper = derived((_: Root, key: string) => key.toUpperCase())
  const from = root(0)
  expect([double(from, 'a'), upper(from, 'a')]).toEqual(['aa', 'A'])
})

test('a bigint and a number of one value are two keys, and so are their texts beside others', () => {
  const kind = derived((_: Root, key: number | bigint) => typeof key)
  const pair = derived((_: Root, key: number | bigint, other: number) => `${typeof key} ${other}`)
  const from = root(0)
  expect([kind(from, 5), kind(from, 5n)]).toEqual(['number', 'bigint'])
  expect([pair(from, 5, 1), pair(from, 5n, 1)]).toEqual(['number 1', 'bigint 1'])
})

test('only the last value is cached where that is asked for, and all while tracked', () => {
  const plus = derived((from: Root, a: number) => (from.computed++, from.value + a), {
    untracked: 'last',
  })
  const from = root(1)
  for (const a of [1, 1, 2, 1]) plus(from, a)
  expect(from.computed).toBe(3)
  const tracked = root(1)
  track(() => [1, 1, 2, 1].map((a) => plus(tracked, a)))
  expect(tracked.computed).toBe(2)
})

test('a value that is cached while tracked only is computed again each time otherwise', () => {
  const same = derived((from: Root) => (from.computed++, from.value), { untracked: 'none' })
  const from = root(1)
  same(from)
  same(from)
  expect(from.computed).toBe(2)
  track(() => [same(from), same(from)])
  expect(from.computed).toBe(3)
})

test('values are cached with the object that is named, not with the root', () => {
  const value = derived(({ model }: { model: Root }) => (model.computed++, model.value), {
    on: ({ model }) => model,
  })
  const model = root(1)
  value({ model })
  value({ model })
  expect(model.computed).toBe(1)
})

test('a value that is compared leaves its observers valid where a change does not alter it', () => {
  const parity = derived((from: Root) => from.value % 2, { same: Object.is })
  const from = root(1)
  const map = new Map<string, string>()
  let asked = 0
  const say = (): string =>
    track(() => cached(map, 'said', () => (asked++, parity(from) === 0 ? 'even' : 'odd')))
  expect(say()).toBe('odd')
  from.change(3)
  expect([say(), asked]).toEqual(['odd', 1])
  from.change(4)
  expect([say(), asked]).toEqual(['even', 2])
})

test('a value that outlives a model is taken over while its inputs are the same objects', () => {
  const known: Outliving<object, number> = new WeakMap()
  const [key, input] = [{}, {}]
  let made = 0
  const ask = (inputs: readonly unknown[]): number =>
    takenOver(
      known,
      key,
      () => inputs,
      () => ++made,
    )
  expect([ask([input, 'a']), ask([input, 'a']), ask([input, 'b']), ask([{}, 'b'])]).toEqual([
    1, 1, 2, 3,
  ])
  expect(track(() => ask([input, 'b']))).toBe(4)
})

test('sequences are the same where their members are, in their order', () => {
  expect(sameItems([1, 2], new Set([1, 2]))).toBe(true)
  expect(sameItems([1, 2], [2, 1])).toBe(false)
  expect(sameItems([1, 2], [1])).toBe(false)
  expect(sameItems([1], [1, 2])).toBe(false)
})
