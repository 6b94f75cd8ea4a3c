import { rootOfLoss } from '../deciding'
import { derived, sameItems } from '../../incremental/derived'
import { familyOf, type Family } from '../../address/address'
import { rangeSet } from '../../address/ranges'
import { chosenBy } from '../../expectations/selection'
import type { SubnetModel, Model } from '../../model/model'
import { isDenied, packetShowing } from '../shown'
import { type CheckContext, FAMILIES, nameOf, rangeTexts } from '../survey'
import type { Add } from '../finding'

/** Hosts whose rules allow the internet, and no way to it. */
export function noWayOut(survey: CheckContext, subnet: SubnetModel, add: Add): void {
  const { model } = survey
  if (subnet.role === 'isolated' || separations(model).some((id) => exempts(model, id, subnet)))
    return
  for (const table of survey.tablesOf(subnet)) {
    if (table.kind.interfaces.length === 0) continue
    const family: Family = table.kind.sources[4] === null ? 6 : 4
    const parts = FAMILIES.flatMap((f) => survey.toInternet(subnet, table, f))
    if (
      parts.length === 0 ||
      parts.some(({ outcome }) => outcome.cause === null || ADDRESS_CAUSES.has(outcome.cause.code))
    )
      continue
    const hosts = table.kind.interfaces.filter(
      (index) => !model.firewallAt.has(index) && !model.interfaces[index]!.forwards,
    )
    const ranges = rangeSet(
      parts.flatMap((part) => part.ranges.filter(({ from }) => familyOf(from) === family)),
    )
    // Rules on the way may stop some packets before they are lost, or all of them.
    const letOut = hosts.filter((index) => survey.letOutToInternet(index, family) !== null)
    const shown = packetShowing(
      survey,
      { subnet, table, hosts: letOut },
      ranges,
      ({ cause }) => cause !== null && !isDenied(cause),
    )
    if (!shown) continue
    const cause = parts[0]!.outcome.cause!
    add({
      code: 'hole-no-way-out',
      severity: 'medium',
      anchor: subnet.ref,
      objects: [
        subnet.ref,
        ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
        shown.sender,
        cause.object.includes('/') ? cause.object : null,
      ],
      sentence: `The rules of ${nameOf(shown.sender)} allow it the internet, but ${subnet.id} has no way there.`,
      root: rootOfLoss(cause, { model, subnet, hosts: table, dst: parts[0]!.ranges[0]!.from }),
      ranges: rangeTexts(
        parts.flatMap((part) => part.ranges),
        4,
      ),
      question: shown.question,
    })
  }
}

/** A host without an address, or a ring, has a finding of its own. */
const ADDRESS_CAUSES: ReadonlySet<string> = new Set(['no-public-address', 'looped'])

/** The expectations that something is never reached. */

export const separations = derived(
  (model: Model): readonly string[] =>
    [...model.estate.expectations].flatMap(([id, { must, state }]) =>
      must === 'never-reach' && state !== 'deleted' ? [id] : [],
    ),
  { same: sameItems },
)

/** Whether an expectation keeps this subnet from the internet. */
function exempts(model: Model, id: string, subnet: SubnetModel): boolean {
  const expectation = model.estate.expectations.get(id)
  const to = JSON.stringify(expectation?.to ?? '')
  if (!to.includes('internet')) return false
  return exemptSubnets(model, id).has(subnet.index)
}

const exemptSubnets = derived(
  (model: Model, id: string): ReadonlySet<number> => {
    const { from, except } = model.estate.expectations.get(id)!
    const chosen = chosenBy(model, from, except)
    return new Set([
      ...[...chosen.interfaces].map((index) => model.interfaces[index]!.subnet),
      ...chosen.unoccupied.keys(),
    ])
  },
  { same: sameItems },
)
