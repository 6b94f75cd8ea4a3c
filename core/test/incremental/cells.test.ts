import {
  cached,
  extend,
  invalidate,
  lazy,
  memoStable,
  noObservers,
  observe,
  takeObservers,
  track,
} from '../../src/incremental/cells'

/** A value from outside that cells read, as the tracked model notes its readers. */
function input<T>(first: T) {
  let value = first
  const observers = noObservers()
  return {
    read: (): T => {
      observe(observers)
      return value
    },
    change: (next: T): void => {
      value = next
      invalidate(takeObservers(observers))
    },
  }
}

/** A function that counts its calls. */
function counted<T>(make: () => T) {
  const calls = { count: 0 }
  return { calls, make: (): T => (calls.count++, make()) }
}

test('outside of track a cached value is made once and nothing observes it', () => {
  const source = input(1)
  const doubled = counted(() => source.read() * 2)
  const map = new Map<string, number>()
  expect(cached(map, 'a', doubled.make)).toBe(2)
  source.change(5)
  expect(cached(map, 'a', doubled.make)).toBe(2)
  expect(doubled.calls.count).toBe(1)
})

test('a change computes what read it again, and nothing else', () => {
  const left = input(1)
  const right = input(10)
  const map = new Map<string, number>()
  const ofLeft = counted(() => left.read() * 2)
  const ofRight = counted(() => right.read() * 2)
  const sum = counted(() => cached(map, 'left', ofLeft.make) + cached(map, 'right', ofRight.make))
  const ask = (): number => track(() => cached(map, 'sum', sum.make))
  expect(ask()).toBe(22)
  left.change(2)
  expect(ask()).toBe(24)
  expect([ofLeft, ofRight, sum].map(({ calls }) => calls.count)).toEqual([2, 1, 2])
})

test('what a value no longer reads does not invalidate it', () => {
  const which = input<'left' | 'right'>('left')
  const left = input(1)
  const right = input(10)
  const map = new Map<string, number>()
  const chosen = counted(() => (which.read() === 'left' ? left : right).read())
  const ask = (): number => track(() => cached(map, 'chosen', chosen.make))
  expect(ask()).toBe(1)
  which.change('right')
  expect(ask()).toBe(10)
  left.change(2)
  expect(ask()).toBe(10)
  expect(chosen.calls.count).toBe(2)
})

test('a stable value that is the same after a change keeps its observers', () => {
  const source = input(1)
  const map = new Map<string, boolean>()
  const words = new Map<string, string>()
  const even = counted(() => source.read() % 2 === 0)
  const same = (before: boolean, now: boolean): boolean => before === now
  const word = counted(() => (memoStable(map, 'even', even.make, same) ? 'even' : 'odd'))
  const ask = (): string => track(() => cached(words, 'word', word.make))
  expect(ask()).toBe('odd')
  source.change(3)
  expect(ask()).toBe('odd')
  expect([even.calls.count, word.calls.count]).toEqual([2, 1])
  source.change(4)
  expect(ask()).toBe('even')
  expect([even.calls.count, word.calls.count]).toEqual([3, 2])
})

test('a value that throws is not kept, and is made at the next question', () => {
  const source = input(0)
  const map = new Map<string, number>()
  const inverse = (): number => {
    if (source.read() === 0) throw new Error('no inverse of 0')
    return 1 / source.read()
  }
  const ask = (): number => track(() => cached(map, 'inverse', inverse))
  expect(ask).toThrow('no inverse of 0')
  source.change(4)
  expect(ask()).toBe(0.25)
})

test('a stable value that cannot be computed any more invalidates its observers', () => {
  const source = input<{ readonly name: string } | null>({ name: 'reef' })
  const map = new Map<string, string>()
  const lines = new Map<string, string>()
  const named = (): string => source.read()!.name
  const line = (): string =>
    source.read() === null
      ? 'gone'
      : `it is ${memoStable(map, 'name', named, (before, now) => before === now)}`
  const ask = (): string => track(() => cached(lines, 'line', line))
  expect(ask()).toBe('it is reef')
  source.change(null)
  expect(ask()).toBe('gone')
})

test('the reads of a lazy value are those of the cell that created it, whoever asks first', () => {
  const source = input(1)
  const map = new Map<string, () => number>()
  const ask = (): (() => number) => track(() => cached(map, 'late', () => lazy(source.read)))
  const late = ask()
  expect(late()).toBe(1)
  source.change(2)
  expect(late()).toBe(1)
  expect(ask()()).toBe(2)
})

test('observers stay few however often the same values read something', () => {
  const observers = noObservers()
  const map = new Map<string, number>()
  const keys = ['a', 'b', 'c']
  track(() => {
    for (const key of keys) cached(map, key, () => 0)
    for (let round = 0; round < 1_000; round++)
      extend(map, keys[round % keys.length], () => observe(observers))
  })
  expect(observers.cells.length).toBeLessThan(64)
  expect(new Set(observers.cells).size).toBe(keys.length)
})
