import { type Family, formatAddress } from '../../address/address'
import { wholeSpace } from '../../address/prefix-table'
import { type Range, firstPart } from '../../address/ranges'
import type { Wanted } from '../../hops/behind'
import type { HopTable } from '../../hops/hops'
import { outcomesWithin } from '../../hops/meet'
import { cached } from '../../incremental/cells'
import type { SubnetModel } from '../../model/model'
import { lowestInternetAddress } from '../../walk/public-address'
import {
  type CheckContext,
  upTo,
  fromText,
  listText,
  nameOf,
  internetText,
  hostIn,
  rangeTexts,
  subnetSpaceRanges,
} from '../survey'

import type { Add } from '../finding'

const LOST_CODES: ReadonlySet<string> = new Set([
  'looped',
  'peering-not-transitive',
  'forwarded-refused',
  'nat-other-region',
  'nat-does-not-serve',
])

const LOST_BY_ROUTES: Wanted = {
  name: 'lost by routes',
  has: ({ cause }) => cause !== null && LOST_CODES.has(cause.code),
}

/** Ways of all the destination space that are lost for a cause of the ways themselves. */
export function lostWays(
  survey: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  add: Add,
): void {
  const { model, memo } = survey
  const whole = wholeRange(family)
  for (const part of outcomesWithin(model, subnet, table, family, whole, memo, {
    wanted: LOST_BY_ROUTES,
  })) {
    const cause = part.outcome.cause
    if (cause === null) continue
    const { to, texts, isInside } = toldOf(survey, part.ranges, family)
    const shown = {
      ranges: upTo(texts, 12),
      question: { from: fromText(model, subnet, table), to },
    }
    switch (cause.code) {
      case 'looped':
        add({
          code: 'hole-loop',
          severity: isInside ? 'high' : 'medium',
          anchor: subnet.ref,
          objects: [cause.object, subnet.ref, ...new Set(part.outcome.ways.flat())].filter((ref) =>
            ref.includes('/'),
          ),
          sentence: `Packets from ${subnet.id} to ${listText(upTo(texts, 3))} go round in a ring through ${nameOf(cause.object)} until they are dropped.`,
          ...shown,
        })
        break
      case 'peering-not-transitive':
        add({
          code: 'hole-not-transitive',
          severity: 'high',
          anchor: cause.object,
          objects: [
            subnet.ref,
            ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
            cause.object,
          ],
          sentence: `Packets to ${listText(upTo(texts, 3))} are sent over ${nameOf(cause.object)}, which carries only what is for its two networks.`,
          part: upTo(texts, 4).join(),
          ...shown,
        })
        break
      case 'forwarded-refused':
        add({
          code: 'hole-forwarded-refused',
          severity: 'high',
          anchor: cause.object,
          objects: [
            cause.object,
            subnet.ref,
            ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
          ],
          sentence: `${nameOf(cause.object)} does not take forwarded packets, so those from ${model.networks[subnet.network]!.id} that come by another network are lost there.`,
          ...shown,
        })
        break
      case 'nat-other-region':
      case 'nat-does-not-serve':
        add({
          code: 'hole-nat-out-of-reach',
          severity: 'high',
          anchor: cause.object,
          objects: [
            subnet.ref,
            ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
            cause.object,
          ],
          sentence:
            cause.code === 'nat-other-region'
              ? `${nameOf(cause.object)} serves another region than that of ${subnet.id}, whose routes lead to it.`
              : `${nameOf(cause.object)} does not serve ${subnet.id}, whose routes lead to it.`,
          ...shown,
        })
        break
      default:
    }
  }
}

interface Told {
  /** An address there that can be asked for, as a question names it. */
  readonly to: string
  readonly texts: readonly string[]
  /** Whether subnets have addresses there. */
  readonly isInside: boolean
}

const told = new WeakMap<readonly Range[], Told>()

/** What is said of destinations, the same for all who share their ways. */
const toldOf = (survey: CheckContext, ranges: readonly Range[], family: Family): Told =>
  cached(told, ranges, () => {
    const { model } = survey
    const lowest = lowestInternetAddress(model, family)
    const toInternet = ranges.some(({ from, to }) => from <= lowest && lowest <= to)
    return {
      to: toInternet ? internetText(model, family) : formatAddress(hostIn(survey, ranges)),
      texts: rangeTexts(ranges, 12),
      isInside: ranges.some((range) => firstPart(subnetSpaceRanges(model), range) !== null),
    }
  })
const wholes = { 4: [wholeSpace(4)], 6: [wholeSpace(6)] } as const
const wholeRange = (family: Family) => wholes[family]
