import { nextTurn, type ThreadState, type Waiting } from '../../server/threads/turns'

const idle = (...holds: number[]): ThreadState => ({ asker: null, holds: new Set(holds) })
const busy = (asker: string, ...holds: number[]): ThreadState => ({ asker, holds: new Set(holds) })
const waits = (asker: string, revisionId = 1, since = 0, goesOn = false): Waiting => ({
  ...{ asker, revisionId, since, goesOn },
})
const clock = { now: 100, readingTime: () => 1_000, lastServed: () => 0 }
const turn = (threads: ThreadState[], waiting: Waiting[], more: Partial<typeof clock> = {}) => {
  const next = nextTurn(threads, waiting, { ...clock, ...more })
  return next && [next.thread, next.question.asker]
}

test('a question goes to the idle thread that holds its revision', () => {
  expect(turn([idle(), idle(7), idle(1)], [waits('ana')])).toEqual([2, 'ana'])
  expect(turn([idle(7, 8), idle(9), idle()], [waits('ana')])).toEqual([2, 'ana'])
})

test('it waits for a busy one that holds it as long as reading it takes, and no longer', () => {
  const threads = [busy('ben', 1), idle(), idle()]
  expect(turn(threads, [waits('ana')])).toBeNull()
  expect(turn(threads, [waits('ana')], { now: 1_001 })).toEqual([1, 'ana'])
  expect(turn(threads, [waits('ana', 2)])).toEqual([1, 'ana'])
})

test('what goes on with what was found is asked of nobody else', () => {
  const threads = [busy('ben', 1), idle(), idle()]
  expect(turn(threads, [waits('ana', 1, 0, true)], { now: 60_000 })).toBeNull()
  expect(turn([idle(), idle()], [waits('ana', 1, 0, true)])).toEqual([0, 'ana'])
})

test('nobody has every thread, however much he asks', () => {
  const threads = [busy('ben', 1), busy('ben', 2), idle()]
  const many = Array.from({ length: 50 }, () => waits('ben', 3))
  expect(turn(threads, many)).toBeNull()
  expect(turn(threads, [...many, waits('ana', 3, 99)])).toEqual([2, 'ana'])
})

test('who has the fewest under way comes first, then who was served the longest ago', () => {
  const asked = [waits('ben', 3), waits('ben', 3), waits('ana', 3, 50), waits('cem', 3, 60)]
  expect(turn([busy('ben', 1), idle(), idle()], asked)).toEqual([1, 'ana'])
  const lastServed = (asker?: string): number => ({ ana: 3, ben: 2, cem: 1 })[asker!]!
  expect(turn([idle(), idle()], asked, { lastServed })).toEqual([0, 'cem'])
})

test('where no thread is idle it is the turn of nobody', () => {
  expect(turn([busy('ben', 1), busy('cem', 1)], [waits('ana')])).toBeNull()
})
