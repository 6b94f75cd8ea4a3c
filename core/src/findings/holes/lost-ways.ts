import type { Family } from '../../address/address'
import { wholeSpace } from '../../address/prefix-table'
import { rangeSet, type Range, firstPart } from '../../address/ranges'
import type { Wanted } from '../../hops/behind'
import type { HopTable } from '../../hops/hops'
import { outcomesWithin } from '../../hops/meet'
import type { Outcome } from '../../hops/onward'
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

import { spaceTexts } from '../../addresses/named-space'
import type { Add, Stated } from '../finding'

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
    const { to, texts, said, isInside } = toldOf(survey, part.ranges, family)
    const table = subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []
    const lost = { model, subnet, table, object: cause.object, texts, said, isInside }
    add({
      ranges: upTo(texts, 12),
      question: { from: fromText(model, subnet, hosts), to },
      ...state(lost, part.outcome),
    })
  }
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

const outOfReach =
  (why: (nat: string, subnet: string) => string) =>
  ({ subnet, table, object }: Lost): Stated => ({
    code: 'hole-nat-out-of-reach',
    severity: 'high',
    anchor: object,
    objects: [subnet.ref, ...table, object],
    sentence: why(nameOf(object), subnet.id),
  })

/** By cause: the finding that states it. */
const STATED: Readonly<Record<string, (lost: Lost, outcome: Outcome) => Stated>> = {
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
const toldOf = (survey: CheckContext, ranges: readonly Range[], family: Family): Told =>
  cached(told, ranges, () => {
    const { model } = survey
    return {
      to: askedIn(survey, rangeSet(ranges), family),
      texts: rangeTexts(ranges, 12),
      said: spaceTexts(model, ranges),
      isInside: ranges.some((range) => firstPart(subnetSpaceRanges(model), range) !== null),
    }
  })
const wholes = { 4: [wholeSpace(4)], 6: [wholeSpace(6)] } as const
const wholeRange = (family: Family) => wholes[family]
