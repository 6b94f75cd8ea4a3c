import type { Branch } from '../../src/index'
import type { Path } from './answer'
import { bitsOf, textOf } from './bits'

const address = (text: string): string =>
  /^[0-9a-f.:]+$/i.test(text) ? textOf(bitsOf(text)) : text

/** What both have to say of a path, in one form. */
export const said = (path: Branch): Path => ({
  verdict: path.verdict,
  code: path.cause?.code ?? null,
  objects: path.cause ? [path.cause.object] : [],
  direction: path.cause?.direction ?? null,
  inner: path.cause?.inner?.code ?? null,
  way: path.way,
  leavesBy: path.leavesBy,
  seenAs: path.seenAs.map(address).sort(),
})

const key = ({ verdict, code, direction, inner, way, leavesBy, seenAs }: Path): string =>
  JSON.stringify([verdict, code, direction, inner, way, leavesBy, seenAs])
export const inOrder = (paths: readonly Path[]): Path[] =>
  [...paths].sort((a, b) => (key(a) < key(b) ? -1 : 1))

/**
 * A ring has no first element of its own, so any of its elements may be named for it; everything
 * else is named the same.
 */
const sameObject = (one: Path, plain: Path): boolean =>
  one.code === 'looped'
    ? plain.objects.includes(one.objects[0]!)
    : plain.objects[0] === one.objects[0]

const fateOf = ({ verdict, code, direction, inner }: Path): string =>
  JSON.stringify([verdict, code, direction, inner])

/**
 * The plain implementation has a path for each combination of equal-cost routes. Of those that
 * meet again the trace has fewer: each of its paths is one of the plain ones, and together they
 * have every fate, every element of a way and every address that any of the plain ones has.
 */
export function agree(ours: readonly Path[], plain: readonly Path[]): boolean {
  const parts = (paths: readonly Path[], of: (path: Path) => readonly string[]): string =>
    [...new Set(paths.flatMap(of))].sort().join()
  return (
    ours.length <= plain.length &&
    ours.every((path) =>
      plain.some((other) => key(other) === key(path) && sameObject(path, other)),
    ) &&
    plain.every((other) =>
      ours.some((path) => fateOf(other) === fateOf(path) && sameObject(path, other)),
    ) &&
    parts(ours, ({ way }) => way) === parts(plain, ({ way }) => way) &&
    parts(ours, ({ seenAs }) => seenAs) === parts(plain, ({ seenAs }) => seenAs)
  )
}
