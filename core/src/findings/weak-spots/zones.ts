import { looksUpIn } from '../deciding'
import type { SubnetModel, Model, RouteModel } from '../../model/model'
import { applianceAt } from '../../walk/next-hops/registry'
import { type Finding, finding } from '../finding'
import { leaveInZone } from '../../mend/recipes/associations'
import { type CheckContext, nameOf, natsOn, fromText } from '../survey'

/** A way out that depends on another zone. */
export function zones(survey: CheckContext, subnet: SubnetModel): Finding[] {
  const { model } = survey
  const out = new Map<string, Finding>()
  if (subnet.zone === null || !subnet.up) return []
  for (const table of survey.tablesOf(subnet)) {
    for (const range of table[4]) {
      if (range.hop.cause !== null || !range.hop.winners.some((route) => route.prefix.length === 0))
        continue
      const elements = [
        ...range.hop.winners.flatMap((route) => elementOf(model, subnet, route)),
        ...natsOn(range.hop.ways).flatMap((ref) => natZone(model, ref)),
      ]
      for (const { ref, zone } of elements) {
        if (zone === null || zone === subnet.zone) continue
        const price = model.estate.prices?.crossZoneGigabyte
        const made = finding({
          code: 'odd-crosses-zone',
          severity: 'low',
          anchor: subnet.ref,
          objects: [subnet.ref, subnet.table >= 0 ? model.tables[subnet.table]!.ref : null, ref],
          sentence: `The way out of ${subnet.id} in ${subnet.zone} depends on ${nameOf(ref)} in ${zone}: an outage there cuts it off.`,
          root: { kind: 'route', object: looksUpIn(model, subnet), part: ref },
          part: ref,
          mend: ref.startsWith('nats/') ? leaveInZone(model, subnet) : null,
          facts:
            price === undefined
              ? []
              : [
                  `every gigabyte across zones costs ${price}${model.estate.prices?.currency ? ` ${model.estate.prices.currency}` : ''}`,
                ],
          question: { from: fromText(model, subnet, table), to: 'internet' },
        })
        out.set(made.fingerprint, made)
      }
    }
  }
  return [...out.values()]
}

/** The appliance a route leads to, with its zone. */
function elementOf(
  model: Model,
  subnet: SubnetModel,
  { target }: RouteModel,
): { ref: string; zone: string | null }[] {
  const appliance = applianceAt(model, subnet.network, target)
  const home = model.subnets[appliance?.subnet ?? -1]
  return appliance && home ? [{ ref: appliance.ref, zone: home.zone }] : []
}

function natZone(model: Model, ref: string): { ref: string; zone: string | null }[] {
  const nat = model.nats[model.index.nats.get(nameOf(ref)) ?? -1]
  return nat && nat.subnet >= 0 ? [{ ref, zone: model.subnets[nat.subnet]!.zone }] : []
}
