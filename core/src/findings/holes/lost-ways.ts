import { rootOfLoss } from '../deciding'
import type { Family } from '../../address/address'
import { wholeSpace } from '../../address/prefix-table'
import {
  rangeSet,
  subtractRanges,
  type Range,
  type RangeSet,
  firstPart,
} from '../../address/ranges'
import type { Wanted } from '../../hops/behind'
import type { HopTable } from '../../hops/hops'
import { outcomesWithin } from '../../hops/meet'
import type { Outcome } from '../../hops/outcome'
import { cached } from '../../incremental/cells'
import type { Model, SubnetModel } from '../../model/model'
import {
  type CheckContext,
  upTo,
  fromText,
  listText,
  nameOf,
  askedIn,
  rangeTexts,
  subnetSpaceRanges,
} from '../survey'

import { spaceTexts, unownedSpace } from '../../addresses/named-space'
import type { Add, FindingCode, Stated } from '../finding'

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
  for (const part of outcomesWithin(model, subnet, hosts, family, whole, memo, {
    wanted: LOST_BY_ROUTES,
  })) {
    const { cause } = part.outcome
    const state = cause && STATED[cause.code]
    if (!state) continue
    const { ranges, to, texts, said, isInside, isUnowned } = toldOf(survey, part.ranges, family)
    const table = subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []
    const lost = { model, subnet, table, object: cause.object, texts, said, isInside }
    const root = rootOfLoss(cause, { model, subnet, hosts, dst: ranges[0]!.from })
    const shown = {
      ranges: upTo(texts, 12),
      question: { from: fromText(model, subnet, hosts), to },
    }
    const stated = state(lost, part.outcome)
    add(isUnowned ? noteOfUnowned(stated, said, shown) : { ...shown, root, ...stated })
  }
}

/** What only addresses nobody has meet is no fault: one note of each kind for the whole estate. */
const noteOfUnowned = (
  { code }: StatedLoss,
  said: readonly string[],
  shown: Pick<Stated, 'ranges' | 'question'>,
): Stated => ({
  ...shown,
  code,
  severity: 'note',
  anchor: 'estate',
  sentence: `Packets to ${listText(said)} ${LOST_SO[code]}. Nobody is there to miss them.`,
  root: { kind: 'unowned-space', object: 'estate', part: '' },
})

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
type StatedLoss = Omit<Stated, 'root'>

const outOfReach =
  (why: (nat: string, subnet: string) => string) =>
  ({ subnet, table, object }: Lost): StatedLoss => ({
    code: 'hole-nat-out-of-reach',
    severity: 'high',
    anchor: object,
    objects: [subnet.ref, ...table, object],
    sentence: why(nameOf(object), subnet.id),
  })

/** By cause: the finding that states it. */
const STATED: Readonly<Record<string, (lost: Lost, outcome: Outcome) => StatedLoss>> = {
  looped: ({ subnet, object, said, isInside }, { ways }) => ({
    code: 'hole-loop',
    severity: isInside ? 'high' : 'medium',
    anchor: subnet.ref,
    objects: [object, subnet.ref, ...new Set(ways.flat())].filter((ref) => ref.includes('/')),
    sentence: `Packets from ${subnet.id} to ${listText(said)} go round in a ring through ${nameOf(object)} until they are dropped.`,
  }),
  'peering-not-transitive': ({ subnet, table, object, texts, said }) => ({
    code: 'hole-not-transitive',
    severity: 'high',
    anchor: object,
    objects: [subnet.ref, ...table, object],
    sentence: `Packets to ${listText(said)} are sent over ${nameOf(object)}, which carries only what is for its two networks.`,
    part: upTo(texts, 4).join(),
  }),
  'forwarded-refused': ({ model, subnet, table, object }) => ({
    code: 'hole-forwarded-refused',
    severity: 'high',
    anchor: object,
    objects: [object, subnet.ref, ...table],
    sentence: `${nameOf(object)} does not take forwarded packets, so those from ${model.networks[subnet.network]!.id} that come by another network are lost there.`,
  }),
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
  /** The destinations that somebody has; all of them where nobody has any. */
  readonly ranges: RangeSet
  readonly isUnowned: boolean
  /** An address there that can be asked for, as a question names it. */
  readonly to: string
  readonly texts: readonly string[]
  /** The same in words. */
  readonly said: readonly string[]
  /** Whether subnets have addresses there. */
  readonly isInside: boolean
}

const told = new WeakMap<readonly Range[], Told>()

/** What is said of destinations, the same for all who share their ways. */
const toldOf = (survey: CheckContext, given: readonly Range[], family: Family): Told =>
  cached(told, given, () => {
    const { model } = survey
    const all = rangeSet(given)
    const owned = subtractRanges(all, unownedSpace(model))
    const ranges = owned.length > 0 ? owned : all
    return {
      ranges,
      isUnowned: owned.length === 0,
      to: askedIn(survey, ranges, family),
      texts: rangeTexts(ranges, 12),
      said: spaceTexts(model, ranges),
      isInside: ranges.some((range) => firstPart(subnetSpaceRanges(model), range) !== null),
    }
  })
const wholes = { 4: [wholeSpace(4)], 6: [wholeSpace(6)] } as const
const wholeRange = (family: Family) => wholes[family]
