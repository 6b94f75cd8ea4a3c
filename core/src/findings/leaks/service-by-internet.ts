import { looksUpIn } from '../deciding'
import { derived, sameItems } from '../../incremental/derived'
import { rangeSet } from '../../address/ranges'
import type { HopTable } from '../../hops/hops'
import { outcomesWithin } from '../../hops/meet'
import type { SubnetModel, Model } from '../../model/model'
import { groupBy } from '../../model/sections'
import { useEndpoint } from '../../mend/recipes/steering'
import { firstShowing } from '../shown'
import { type CheckContext, FAMILIES, nameOf, listText, rangeTexts } from '../survey'
import { rangesOf } from '../../model/present'
import type { Add } from '../finding'

/** Provider services that are reached the long way, though a private one is there or could be. */
export function leakService(
  survey: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  add: Add,
): void {
  const { model, memo } = survey
  const network = model.networks[subnet.network]!
  for (const [id, service] of model.estate.services) {
    if (!model.index.services.has(id) || (service.ranges ?? []).length === 0) continue
    if (
      service.region !== undefined &&
      network.region !== null &&
      service.region !== network.region
    )
      continue
    const ranges = rangesOf(model, 'services', id)
    const long = FAMILIES.flatMap((family) =>
      outcomesWithin(model, subnet, table, family, ranges, memo),
    ).filter(({ outcome }) => outcome.cause === null && outcome.reaches === 'internet')
    const asking = long.map((part) => ({ subnet, table, ranges: rangeSet(part.ranges) }))
    const question = firstShowing(survey, asking, ({ delivered }) => delivered)
    if (!question) continue
    const endpoints = endpointsIn(model, network.id, id)
    const by =
      long[0]!.outcome.ways[0]!.find((ref) => ref.startsWith('nats/')) ??
      long[0]!.outcome.leavesBy ??
      'internet'
    const there = endpoints.map((endpoint) => `endpoints/${endpoint}`)
    add({
      code: 'leak-service-by-internet',
      severity: there.length > 0 ? 'low' : 'note',
      anchor: subnet.ref,
      objects: [
        subnet.ref,
        ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
        ...there,
        `services/${id}`,
        by.includes('/') ? by : null,
      ],
      sentence: `${subnet.id} reaches ${id} ${by.startsWith('nats/') ? `through ${nameOf(by)}` : 'over the internet'}, although ${there.length > 0 ? `${listText(there.map(nameOf))} could take it there privately` : 'an endpoint could take it there privately'}.`,
      root:
        there.length > 0
          ? { kind: 'missing-route', object: looksUpIn(model, subnet), part: there[0]! }
          : { kind: 'missing-object', object: network.ref, part: 'endpoints' },
      part: id,
      ranges: rangeTexts(
        long.flatMap((part) => part.ranges),
        12,
      ),
      question,
      mend: useEndpoint(model, subnet, id, endpoints),
      facts: natCost(model, by),
    })
  }
}

/** The endpoints of a network that are up and lead to a service. */
const endpointsIn = derived(
  (model: Model, network: string, service: string): readonly string[] =>
    (endpointsByPlace(model).get(`${network} ${service}`) ?? []).map(([id]) => id),
  { same: sameItems },
)

const endpointsByPlace = derived((model: Model) =>
  groupBy([...model.estate.endpoints], ([, { network, service, state }]) =>
    (state ?? 'up') === 'up' ? `${network} ${service}` : '',
  ),
)

function natCost({ estate: { prices } }: Model, by: string): string[] {
  if (!by.startsWith('nats/') || prices?.natGigabyte === undefined) return []
  return [
    `every gigabyte costs ${prices.natGigabyte}${prices.currency ? ` ${prices.currency}` : ''} at the translator`,
  ]
}
