import { rootOfLoss } from '../deciding'
import type { Address, Family } from '../../address/address'
import { wholeSpace } from '../../address/prefix-table'
import {
  rangeSet,
  intersectRanges,
  type Range,
  type RangeSet,
  firstPart,
} from '../../address/ranges'
import type { Wanted } from '../../hops/behind'
import type { HopTable } from '../../hops/hops'
import { outcomesWithin } from '../../hops/meet'
import type { Outcome } from '../../hops/outcome'
import { cached } from '../../incremental/cells'
import { derived } from '../../incremental/derived'
import type { Model, SubnetModel } from '../../model/model'
import {
  type CheckContext,
  upTo,
  listText,
  nameOf,
  modelOf,
  rangeTexts,
  subnetSpaceRanges,
} from '../survey'

import { ownedSpace, spaceTexts } from '../../addresses/named-space'
import type { Question } from '../../trace/question'
import type { Add, FindingCode, Stated } from '../finding'
import { questionShowing, type Shows } from '../shown'

/** Ways of all the destination space that are lost for a cause of the ways themselves. */
export function lostWays(
  survey: CheckContext,
  subnet: SubnetModel,
  hosts: HopTable,
  family: Family,
  add: Add,
): void {
  const { model, memo } = survey
  const whole = wholeRange(family)
  const side = { subnet, table: hosts }
  const noted = new Set<FindingCode>()
  for (const part of outcomesWithin(model, subnet, hosts, family, whole, memo, {
    wanted: LOST_BY_ROUTES,
  })) {
    const { cause } = part.outcome
    const stating = cause && STATED[cause.code]
    if (!stating) continue
    const { code } = stating
    const isLost: Shows = (branch) => branch.cause?.code === cause.code
    if (isUnowned(model, part.ranges)) {
      // One note of each kind for the whole estate: another part of the same subnet adds nothing.
      if (noted.has(code) || isNoted(survey, code)) continue
      const question = questionShowing(survey, side, rangeSet(part.ranges), isLost)
      if (question) {
        add(noteOfUnowned(survey, code, part.ranges, question))
        noted.add(code)
        note(survey, code)
      }
      continue
    }
    const { ranges, texts, said, isInside } = toldOf(survey, part.ranges)
    const question = questionShowing(survey, side, ranges, isLost)
    if (!question) continue
    const table = subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []
    const lost = { model, subnet, table, object: cause.object, texts, said, isInside }
    add({
      code,
      ranges: upTo(texts, 12),
      question,
      root: rootOfLoss(cause, { model, subnet, hosts, dst: ranges[0]!.from }),
      ...stating.state(lost, part.outcome),
    })
  }
}

const estateNotes = new WeakMap<CheckContext, Set<FindingCode>>()

/**
 * Whether the note for the whole estate is told already: subjects come in their order, and the
 * first one's note stands. A value that is compared later must not rest on that.
 */
const isNoted = (survey: CheckContext, code: FindingCode): boolean =>
  survey.memo.grain === 'coarse' && (estateNotes.get(survey)?.has(code) ?? false)

const note = (survey: CheckContext, code: FindingCode): void =>
  void cached(estateNotes, survey, () => new Set<FindingCode>()).add(code)

const unowned = new WeakMap<readonly Range[], boolean>()

const isUnowned = (model: Model, ranges: readonly Range[]): boolean =>
  cached(unowned, ranges, () =>
    ranges.every((range) => firstPart(ownedSpace(model), range) === null),
  )

/** What only addresses nobody has meet is no fault: one note of each kind for the whole estate. */
function noteOfUnowned(
  { model }: CheckContext,
  code: FindingCode,
  given: readonly Range[],
  question: Question,
): Stated {
  const { texts, said } = cached(notes, given, () => {
    const ranges = rangeSet(given)
    return { texts: rangeTexts(ranges, 12), said: spaceTexts(model, ranges) }
  })
  return {
    code,
    severity: 'note',
    anchor: 'estate',
    sentence: `Packets to ${listText(said)} ${LOST_SO[code]}. Nobody is there to miss them.`,
    root: { kind: 'unowned-space', object: 'estate', part: '' },
    ranges: upTo(texts, 12),
    question,
  }
}

const notes = new WeakMap<readonly Range[], Pick<Told, 'texts' | 'said'>>()

/** How packets to addresses nobody has are lost. */
const LOST_SO: Partial<Record<FindingCode, string>> = {
  'hole-loop': 'go round in a ring until they are dropped',
  'hole-not-transitive': 'are sent over a peering that leads no further',
  'hole-forwarded-refused': 'come to a peering that takes no forwarded packets',
  'hole-nat-out-of-reach': 'are sent to a translator that does not take them',
}

/** Destinations of a subnet that are lost at an object. */
interface Lost {
  readonly model: Model
  readonly subnet: SubnetModel
  /** The subnet's own table, if it has one. */
  readonly table: readonly string[]
  readonly object: string
  readonly texts: readonly string[]
  /** The same in words. */
  readonly said: readonly string[]
  readonly isInside: boolean
}

/** What is said of a loss; what decides it is found for all alike. */
interface StatingLoss {
  readonly code: FindingCode
  readonly state: (lost: Lost, outcome: Outcome) => Omit<Stated, 'root' | 'code'>
}

const outOfReach = (why: (nat: string, subnet: string) => string): StatingLoss => ({
  code: 'hole-nat-out-of-reach',
  state: ({ subnet, table, object }) => ({
    severity: 'high',
    anchor: object,
    objects: [subnet.ref, ...table, object],
    sentence: why(nameOf(object), subnet.id),
  }),
})

/** By cause: the finding that states it. */
const STATED: Readonly<Record<string, StatingLoss>> = {
  looped: {
    code: 'hole-loop',
    state: ({ subnet, object, said, isInside }, { ways }) => ({
      severity: isInside ? 'high' : 'medium',
      anchor: subnet.ref,
      objects: [object, subnet.ref, ...new Set(ways.flat())].filter((ref) => ref.includes('/')),
      sentence: `Packets from ${subnet.id} to ${listText(said)} go round in a ring through ${nameOf(object)} until they are dropped.`,
    }),
  },
  'peering-not-transitive': {
    code: 'hole-not-transitive',
    state: ({ subnet, table, object, texts, said }) => ({
      severity: 'high',
      anchor: object,
      objects: [subnet.ref, ...table, object],
      sentence: `Packets to ${listText(said)} are sent over ${nameOf(object)}, which carries only what is for its two networks.`,
      part: upTo(texts, 4).join(),
    }),
  },
  'forwarded-refused': {
    code: 'hole-forwarded-refused',
    state: ({ model, subnet, table, object }) => ({
      severity: 'high',
      anchor: object,
      objects: [object, subnet.ref, ...table],
      sentence: `${nameOf(object)} does not take forwarded packets, so those from ${model.networks[subnet.network]!.id} that come by another network are lost there.`,
    }),
  },
  'nat-other-region': outOfReach(
    (nat, subnet) =>
      `${nat} serves another region than that of ${subnet}, whose routes lead to it.`,
  ),
  'nat-does-not-serve': outOfReach(
    (nat, subnet) => `${nat} does not serve ${subnet}, whose routes lead to it.`,
  ),
}

const LOST_BY_ROUTES: Wanted = {
  name: 'lost by routes',
  has: ({ cause }) => cause !== null && Object.hasOwn(STATED, cause.code),
}

interface Told {
  /** The destinations that somebody has. */
  readonly ranges: RangeSet
  readonly texts: readonly string[]
  /** The same in words. */
  readonly said: readonly string[]
  /** Whether subnets have addresses there. */
  readonly isInside: boolean
}

const told = new WeakMap<readonly Range[], Told>()

/** What is said of destinations, the same for all who share their ways. */
function toldOf(survey: CheckContext, given: readonly Range[]): Told {
  const [only, other] = given
  if (only && !other) return toldOfRange(survey, only.from, only.to)
  return cached(told, given, () => tell(survey, given))
}

/** One range is told alike to all, whoever its packets are from. */
const toldOfRange = derived(
  (survey: CheckContext, from: Address, to: Address): Told => tell(survey, [{ from, to }]),
  { on: modelOf },
)

function tell(survey: CheckContext, given: readonly Range[]): Told {
  const { model } = survey
  const ranges = intersectRanges(rangeSet(given), ownedSpace(model))
  return {
    ranges,
    texts: rangeTexts(ranges, 12),
    said: spaceTexts(model, ranges),
    isInside: ranges.some((range) => firstPart(subnetSpaceRanges(model), range) !== null),
  }
}

const wholes = { 4: [wholeSpace(4)], 6: [wholeSpace(6)] } as const
const wholeRange = (family: Family) => wholes[family]
