import { isRefusal, trace, type Branch, type Model } from '../../src/index'
import { randomEstate } from '../random/estate'
import { random, type Random } from '../random/random'
import { modelOf } from '../trace/fixtures'
import { answersTo, type Asked, type Path } from './answer'
import { bitsOf, textOf } from './bits'

/**
 * `npm run second-opinion` asks more: `SALT_TRAIL_QUESTIONS` of them, from the estate
 * `SALT_TRAIL_SEED` on.
 */
const QUESTIONS = Number(process.env.SALT_TRAIL_QUESTIONS ?? 3_000)
const PER_ESTATE = 100
const FIRST_SEED = Number(process.env.SALT_TRAIL_SEED ?? 1)

/** Mostly TCP, which keeps state most strictly. */
function transportOf(r: Random): {
  protocol: string
  port: number | null
  sourcePort: number | null
} {
  const protocol = r.pick(['tcp', 'tcp', 'tcp', 'udp', 'udp', 'icmp'])
  return protocol === 'icmp'
    ? { protocol, port: null, sourcePort: null }
    : { protocol, port: r.pick([443, 8443, 22]), sourcePort: r.pick([50000, 500]) }
}

let current: { seed: number; model: Model; ends: readonly string[]; r: Random } | null = null

/** The estate of a seed, kept for the questions that follow. */
function estateOf(seed: number): NonNullable<typeof current> {
  if (current?.seed !== seed) {
    const { estate, ends } = randomEstate(seed)
    current = { seed, model: modelOf(estate), ends, r: random(seed * 7919) }
  }
  return current
}

const address = (text: string): string =>
  /^[0-9a-f.:]+$/i.test(text) ? textOf(bitsOf(text)) : text

/** What both have to say of a path, in one form. */
const said = (path: Branch): Path => ({
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
const inOrder = (paths: readonly Path[]): Path[] =>
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
function agree(ours: readonly Path[], plain: readonly Path[]): boolean {
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

const question = (r: Random, ends: readonly string[]): Asked => ({
  from: r.pick(ends.slice(0, -2)),
  to: r.pick(ends),
  ...transportOf(r),
})

/** Asks both; says what kind of answer it was, and how the two differ if they do. */
function compare(model: Model, asked: Asked): { kind: string; difference: object | null } {
  const ours = trace(model, asked, { evidence: false })
  const plain = answersTo(model.estate, asked)
  if (plain === 'many' || ('truncated' in ours && ours.truncated))
    return { kind: 'too many branches', difference: null }
  if (isRefusal(ours) || plain === null) {
    const same = isRefusal(ours) && plain === null
    return {
      kind: 'refused',
      difference: same
        ? null
        : {
            ours: isRefusal(ours) ? ours.message : 'answered',
            plain: plain === null ? 'refused' : 'answered',
          },
    }
  }
  const mine = inOrder((ours.branches.length > 0 ? ours.branches : [ours]).map(said))
  return {
    kind: ours.cause?.code ?? 'works',
    difference: agree(mine, plain) ? null : { ours: mine, plain: inOrder(plain) },
  }
}

test(
  `two implementations agree on ${QUESTIONS} random questions, there and back`,
  () => {
    const kinds = new Map<string, number>()
    const differences: object[] = []
    for (let asked = 0; asked < QUESTIONS; asked++) {
      const seed = FIRST_SEED + Math.floor(asked / PER_ESTATE)
      const { model, ends, r } = estateOf(seed)
      const one = question(r, ends)
      const { kind, difference } = compare(model, one)
      kinds.set(kind, (kinds.get(kind) ?? 0) + 1)
      if (difference !== null) differences.push({ seed, question: one, ...difference })
    }
    if (process.env.SALT_TRAIL_QUESTIONS)
      console.log(`${differences.length} differences\n${listed(kinds)}`)
    expect(differences.slice(0, 3)).toEqual([])
    // The questions are tangled enough to be lost in most ways, and most of them can be asked.
    expect(kinds.size).toBeGreaterThan(35)
    expect((kinds.get('refused') ?? 0) + (kinds.get('too many branches') ?? 0)).toBeLessThan(
      QUESTIONS / 3,
    )
  },
  60_000 + QUESTIONS * 5,
)

const listed = (kinds: ReadonlyMap<string, number>): string =>
  [...kinds]
    .sort((a, b) => b[1] - a[1])
    .map(([kind, n]) => `${n} ${kind}`)
    .join('\n')
