import { pointerParts } from '../changes/pointer'
import { rebase } from '../changes/rebase'
import type { Estate } from '../format/estate'
import type { ToldFinding } from '../findings/finding'
import type { Mend } from '../mend/mend'
import type { RootCause } from '../root-causes/root-causes'
import { joined } from './leading'
import { proposalsFor, waysFor, type Proposal } from './propose'
import type { Prover, Purposes, Tried } from './prover'
import { purposeOfFinding } from './purpose'

/** What mends a root cause, or a part of its findings. */
export type ProposalAtOnce = Proposal & { readonly mends: number }

/** So many changes are joined at most, each tried by itself, for so many findings. */
const MOST_JOINED = 12
/** So many that are alike are joined, which are tried only once together. */
const MOST_ALIKE = 300
/** So many changes of a finding are looked through for one that is like another's. */
const MOST_LOOKED_THROUGH = 8
const MOST_FINDINGS = 60
/** Changes that are tried for one finding. */
const EACH = { trials: 8, proposals: 1 }

/** What is joined so far, and what a trial of it showed. */
interface Joined {
  readonly mends: readonly Mend[]
  readonly meant: readonly ToldFinding[]
  readonly made: Tried
}

/**
 * The proposal that mends a root cause at once (design part 4.3): what mends the gravest finding of
 * each thing that decides, joined with what the findings need that are left then, each time tried
 * against the whole estate for all that is meant. Things that decide are mostly alike, so what mends
 * the first is made for the others likewise and tried for all together first. What does harm where the rest does none is left
 * out. It may be for a part of the findings, where others have no mend or are too many, and says
 * for how many it is. Null where none reaches any of them. Costs as `proposalsFor` does for each
 * change that is joined.
 */
export function proposalAtOnce(
  prover: Prover,
  { roots }: RootCause,
  stop: () => boolean = () => false,
): ProposalAtOnce | null {
  const leads = roots.map(({ findings }) => findings[0]!)
  const others = roots.flatMap(({ findings }) => findings.slice(1))
  const covered = [...leads, ...others].slice(0, MOST_FINDINGS)
  let joined: Joined | null = mendedAlike(prover, leads.slice(0, MOST_ALIKE), stop)
  for (const one of covered) {
    if (stop() || (joined?.mends.length ?? 0) >= MOST_JOINED) break
    if (!joined || !isGone(joined, one)) joined = withMendOf(prover, joined, one, stop) ?? joined
  }
  if (!joined) return null
  const { mends, meant, made } = joined
  const all = [...new Set([...meant, ...covered.filter((one) => isGone(joined!, one))])]
  const whole = all.length > meant.length ? tryJoined(prover, all, mends, stop) : made
  return whole && { ...whole, harmless: whole.harms.length === 0, mends: all.length }
}

/**
 * What mends the first of some findings, made for each of them likewise, and tried for all; null
 * where that cannot be done, or does harm where the first alone does none.
 */
function mendedAlike(
  prover: Prover,
  leads: readonly ToldFinding[],
  stop: () => boolean,
): Joined | null {
  if (leads.length < 2) return null
  const best = bestFor(prover, leads[0]!, stop)
  if (best === null) return null
  const shape = shapeOf(best)
  const all = new Map<ToldFinding, Mend>([[leads[0]!, best]])
  for (const lead of leads.slice(1)) {
    if (stop()) break
    const like = likeIt(prover, lead, shape)
    if (like) all.set(lead, like)
  }
  const [mends, meant] = [[...all.values()], [...all.keys()]]
  const made = tryJoined(prover, meant, mends, stop)
  const isWorse = best.harmless && (made?.harms.length ?? 0) > 0
  return made === null || isWorse ? null : { mends, meant, made }
}

/** A change for a finding that is of some shape; undefined where none is among its first ones. */
function likeIt(prover: Prover, told: ToldFinding, shape: string): Mend | undefined {
  const finding = prover.findings.find(({ fingerprint }) => fingerprint === told.fingerprint)
  if (!finding) return undefined
  let looked = 0
  for (const way of waysFor(prover.model, finding)) {
    if (shapeOf(way) === shape) return way
    if (++looked >= MOST_LOOKED_THROUGH) return undefined
  }
  return undefined
}

/** What a change does, but for the names and addresses of what it does it to. */
const shapeOf = ({ changes }: Mend): string =>
  JSON.stringify(
    changes.map((one) => {
      const [section, , ...rest] = pointerParts(one.path) ?? []
      const place = rest.map((part) => (/^(\d+|-)$/.test(part) ? '#' : part))
      return [one.op, section, place, 'value' in one ? keysOf(one.value) : null]
    }),
  )

/** The keys of a value and of what is in it, of a list those of its first entry; else its type. */
const keysOf = (value: unknown): unknown =>
  Array.isArray(value)
    ? keysOf(value[0])
    : typeof value === 'object' && value !== null
      ? Object.entries(value).map(([key, inner]) => [key, keysOf(inner)])
      : typeof value

const isGone = ({ made }: Joined, { fingerprint }: ToldFinding): boolean =>
  made.findings.went.some((one) => one.fingerprint === fingerprint)

/** What is joined with what mends one more finding; null where that is not for the better. */
function withMendOf(
  prover: Prover,
  before: Joined | null,
  one: ToldFinding,
  stop: () => boolean,
): Joined | null {
  const best = bestFor(prover, one, stop)
  if (best === null) return null
  const mends = [...(before?.mends ?? []), best]
  const meant = [...(before?.meant ?? []), one]
  const made = tryJoined(prover, meant, mends, stop)
  const isWorse = before?.made.harms.length === 0 && (made?.harms.length ?? 0) > 0
  return made === null || isWorse ? null : { mends, meant, made }
}

/** Tries joined mends for all of some findings. */
function tryJoined(
  prover: Prover,
  meant: readonly ToldFinding[],
  mends: readonly Mend[],
  stop: () => boolean,
): Tried | null {
  if (mends.length === 0) return null
  const whole = joinedOver(prover.model.estate, mends)
  return whole && prover.attempt(purposesOf(prover, meant), whole, { stop })
}

/** What mends a finding; null where nothing does. */
function bestFor(
  prover: Prover,
  { fingerprint }: ToldFinding,
  stop: () => boolean,
): Proposal | null {
  const finding = prover.findings.find((one) => one.fingerprint === fingerprint)
  return (finding && !stop() && proposalsFor(prover, finding, { ...EACH, stop })[0]) || null
}

const purposesOf = (prover: Prover, told: readonly ToldFinding[]): Purposes => {
  const meant = new Set(told.map(({ fingerprint }) => fingerprint))
  return prover.findings
    .filter(({ fingerprint }) => meant.has(fingerprint))
    .map((one) => purposeOfFinding(prover.model, one)) as unknown as Purposes
}

/**
 * Mends that were each made for the estate as it is, as one that makes them one after the other;
 * null where they are in each other's way.
 */
function joinedOver(estate: Estate, mends: readonly Mend[]): Mend | null {
  const [first, ...others] = mends
  let whole = first!
  for (const one of others) {
    const moved = rebase(estate, one.changes, whole.changes)
    if (!moved.ok || moved.conflicts.length > 0) return null
    if (moved.change.length > 0) whole = joined([whole, { ...one, changes: moved.change }])
  }
  return mends.length < 4
    ? whole
    : { ...whole, what: `${first!.what}; and ${mends.length - 1} more changes` }
}
