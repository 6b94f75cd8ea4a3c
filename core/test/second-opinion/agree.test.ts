import { isRefusal, trace, type Model } from '../../src/index'
import { randomEstate } from '../random/estate'
import { random, type Random } from '../random/random'
import { modelOf } from '../trace/fixtures'
import { agree, inOrder, said } from './agree'
import { answersTo, type Asked } from './answer'

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
