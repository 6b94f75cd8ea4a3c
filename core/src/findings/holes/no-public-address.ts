import { missingIn } from '../root'
import { rangeSet } from '../../address/ranges'
import type { Family } from '../../address/address'
import type { HopTable } from '../../hops/hops'
import type { SubnetModel } from '../../model/model'
import type { Add } from '../finding'
import { questionShowing } from '../shown'
import { type CheckContext, listText, nameOf, rangeTexts } from '../survey'

/** Hosts without a public address whose way out is direct. */
export function noPublicAddress(
  survey: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  add: Add,
): void {
  const { model } = survey
  if (table.kind.interfaces.length === 0) return
  const lost = survey
    .toInternet(subnet, table, family)
    .filter(({ outcome }) => outcome.cause?.code === 'no-public-address')
  if (lost.length === 0) return
  const hosts = table.kind.interfaces.map((index) => model.interfaces[index]!.ref)
  const ranges = rangeSet(lost.flatMap((part) => part.ranges))
  const question = questionShowing(
    survey,
    { subnet, table },
    ranges,
    ({ cause }) => cause?.code === 'no-public-address',
  )
  if (!question) return
  add({
    code: 'hole-no-public-address',
    severity: 'medium',
    anchor: subnet.ref,
    objects: [
      subnet.ref,
      ...hosts,
      ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
    ],
    sentence: `${subnet.id} has a direct way to the internet, but ${listText(hosts.map(nameOf))} ${hosts.length === 1 ? 'has' : 'have'} no public address.`,
    root: missingIn(subnet.ref, 'publicAddress'),
    ranges: rangeTexts(ranges, 12),
    question,
  })
}
