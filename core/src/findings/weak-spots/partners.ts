import { attributeOf, missingIn } from '../root'
import { derived, sameItems } from '../../incremental/derived'
import { type Address, formatAddress } from '../../address/address'
import { prefixOf } from '../../address/prefix'
import { rangeSetOf, rangesContain, type RangeSet } from '../../address/ranges'
import { pointer } from '../../changes/index'
import type { Model } from '../../model/model'
import { type Finding, finding } from '../finding'
import { keepAddress } from '../../mend/recipes/upkeep'
import { modelOf, check, nameOf, listText, type CheckContext } from '../survey'
import { idsOf, rangesOf } from '../../model/present'

/** Partners with an allowlist: which addresses of ours they see. */
export const checkPartners = check(
  'elements',
  ({ model }) => idsOf(model, 'parties'),
  (survey, id) => {
    const { allowlist = [], ranges = [] } = survey.model.estate.parties.get(id)!
    if (allowlist.length === 0 || ranges.length === 0) return []
    const { missing, changing } = addressesSeen(survey, id, rangeSetOf(allowlist.map(prefixOf)))
    return [
      ...(missing.size > 0 ? [notAllowlisted(id, missing)] : []),
      ...[...changing].map(([seen, objects]) =>
        changingAddress(survey.model, id, seen, [...objects]),
      ),
    ]
  },
)

/** Addresses, each with the objects by which a party comes to see it. */
type SeenBy = ReadonlyMap<string, ReadonlySet<string>>

/** The addresses a party sees that its allowlist lacks, and those that may change by themselves. */
function addressesSeen(
  survey: CheckContext,
  id: string,
  allowed: RangeSet,
): { readonly missing: SeenBy; readonly changing: SeenBy } {
  const { model } = survey
  const missing = new Map<string, Set<string>>()
  const changing = new Map<string, Set<string>>()
  const note = (map: Map<string, Set<string>>, key: string, objects: readonly string[]): void => {
    let set = map.get(key)
    if (!set) map.set(key, (set = new Set()))
    for (const object of objects) set.add(object)
  }
  for (const index of survey.present()) {
    const subnet = model.subnets[index]!
    for (const { by, seenAs } of seenBy(survey, id, index)) {
      const automatic = by.filter(
        (one) =>
          one.startsWith('nats/') && model.estate.nats.get(nameOf(one))?.allocation === 'automatic',
      )
      for (const seen of seenAs) {
        if (seen === 'unpredictable') {
          note(changing, 'an address that nobody can foresee', [...by, subnet.ref])
          continue
        }
        const { address } = prefixOf(asPrefix(seen))
        if (automatic.length > 0) note(changing, seen, [...automatic, subnet.ref])
        else if (isEphemeral(model, address, by)) note(changing, seen, [...by, subnet.ref])
        if (!rangesContain(allowed, address)) note(missing, seen, [...by, subnet.ref])
      }
    }
  }
  return { missing, changing }
}

/** An address as a prefix of its own. */
const asPrefix = (text: string): string => `${text}/${text.includes(':') ? 128 : 32}`

function notAllowlisted(id: string, missing: SeenBy): Finding {
  const seen = [...missing.keys()]
  const ref = `parties/${id}`
  return finding({
    code: 'odd-not-allowlisted',
    severity: 'medium',
    anchor: ref,
    objects: [...[...missing.values()].flatMap((objects) => [...objects]), ref],
    sentence: `${id} sees us come from ${listText(seen)}, which its allowlist lacks.`,
    root: missingIn(ref, 'allowlist'),
    ranges: seen,
    mend: {
      what: `ask ${id} to add ${listText(seen)}, and note it here`,
      changes: seen.map((text) => ({
        op: 'add',
        path: pointer('parties', id, 'allowlist', '-'),
        value: asPrefix(text),
      })),
    },
  })
}

function changingAddress(
  model: Model,
  id: string,
  seen: string,
  objects: readonly string[],
): Finding {
  const ref = `parties/${id}`
  const subnets = objects.filter((object) => object.startsWith('subnets/')).map(nameOf)
  return finding({
    code: 'odd-changing-address',
    severity: 'medium',
    anchor: ref,
    objects: [...objects, ref],
    sentence: `${id} allows us by address, but sees ${seen} from ${listText(subnets)}, which may change by itself.`,
    root: attributeOf(objects.find((one) => one.startsWith('nats/')) ?? ref, 'addresses'),
    part: seen,
    ranges: seen.includes(' ') ? [] : [seen],
    mend: keepAddress(model, seen, objects),
  })
}

interface Seen {
  readonly by: readonly string[]
  readonly seenAs: readonly string[]
}

/** As whom a party sees the hosts of a subnet, and what they pass on the way. */
const seenBy = derived(
  (survey: CheckContext, party: string, index: number): readonly Seen[] => {
    const { model } = survey
    const subnet = model.subnets[index]!
    const ranges = rangesOf(model, 'parties', party)
    return survey.tablesOf(subnet).flatMap((table) => {
      if (!table.kind.interfaces.some((one) => survey.rulesAllow(one, ranges))) return []
      return survey.meet(subnet, table, 4, ranges).flatMap(({ outcome }) =>
        outcome.cause === null
          ? [
              {
                by: [...new Set(outcome.ways.flat())].filter((one) => one.includes('/')),
                seenAs: outcome.seenAs,
              },
            ]
          : [],
      )
    })
  },
  {
    same: (a, b) =>
      a.length === b.length &&
      a.every((one, at) => sameItems(one.by, b[at]!.by) && sameItems(one.seenAs, b[at]!.seenAs)),
    on: modelOf,
  },
)

/** A host's own public address that is not reserved goes with the host. */
function isEphemeral(model: Model, address: Address, by: readonly string[]): boolean {
  if (by.some((one) => /^(nats|firewalls)\//.test(one))) return false
  return (
    model.publicOwners.get(address)?.kind === 'interface' &&
    model.estate.publicAddresses.get(formatAddress(address))?.reserved === false
  )
}
