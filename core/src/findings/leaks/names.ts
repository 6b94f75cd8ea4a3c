import { missingIn } from '../root'
import { derived, sameItems } from '../../incremental/derived'
import { formatAddress } from '../../address/address'
import { addressOf } from '../../address/prefix'
import { isPublic } from '../../address/public'
import type { Model, NetworkModel } from '../../model/model'
import { resolveName } from '../../trace/names'
import { finding } from '../finding'
import { linkZone } from '../../mend/recipes/upkeep'
import { check, fromText, nameOf, listText, type CheckContext } from '../survey'
import { presentOf } from '../../model/present'

/** Names that have a private answer somewhere in the estate, and a public one in a network. */

export const checkNames = check(
  'upkeep',
  ({ model }) => presentOf(model, 'networks'),
  (survey, index) => {
    const { model } = survey
    const network = model.networks[index]!
    if (privateNames(model).size === 0) return []
    const from = askerIn(survey, network)
    if (from === null) return []
    return [...privateNames(model)].flatMap(([name, by]) => {
      const answer = resolveName(model, network.index, name)
      const exposed =
        answer?.addresses.filter((address) => isPublic(address) && typeof address === 'number') ??
        []
      if (!answer || exposed.length === 0 || answer.answeredBy === by) return []
      return [
        finding({
          code: 'leak-name-public',
          severity: 'low',
          anchor: network.ref,
          objects: [by, network.ref, answer.answeredBy],
          sentence: `${name} has a private answer by ${nameOf(by)}, but in ${network.id} it resolves to ${listText(exposed.map(formatAddress))}, by ${nameOf(answer.answeredBy)}.`,
          root: missingIn(by, 'networks'),
          part: name,
          ranges: exposed.map(formatAddress),
          question: { from, to: `name:${name}` },
          mend: linkZone(model, by, network.id),
        }),
      ]
    })
  },
)

/** Who asks for names in a network: the first of its hosts, as a question names it. */
function askerIn(survey: CheckContext, { subnets }: NetworkModel): string | null {
  let unoccupied: string | null = null
  for (const index of subnets) {
    const subnet = survey.model.subnets[index]!
    for (const table of subnet.up ? survey.tablesOf(subnet) : []) {
      const from = fromText(survey.model, subnet, table)
      if (table.kind.interfaces.length > 0) return from
      unoccupied ??= from
    }
  }
  return unoccupied
}

/** Names with a private answer, each with who gives it. */
const privateNames = derived(
  (model: Model): ReadonlyMap<string, string> => findPrivateNames(model),
  { same: (a, b) => sameItems(a.keys(), b.keys()) && sameItems(a.values(), b.values()) },
)

function findPrivateNames(model: Model): ReadonlyMap<string, string> {
  const { estate } = model
  const names = new Map<string, string>()
  for (const [id, zone] of estate.nameZones) {
    if (!model.index.nameZones.has(id)) continue
    for (const [name, addresses] of Object.entries(zone.records ?? {}))
      if (addresses.some((text) => !isPublicText(text))) names.set(name, `nameZones/${id}`)
  }
  for (const [id, endpoint] of estate.endpoints) {
    if (endpoint.style !== 'addressed' || !endpoint.privateNames || !model.index.endpoints.has(id))
      continue
    for (const name of estate.services.get(endpoint.service)?.names ?? [])
      names.set(name.replaceAll('*', 'any'), `endpoints/${id}`)
  }
  return names
}

const isPublicText = (text: string): boolean => isPublic(addressOf(text))
