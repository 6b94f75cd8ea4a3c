import { likenessOf } from '../likeness/likeness'
import { differencesOf } from '../likeness/words'
import type { Model, NetworkModel } from '../model/model'

/** Networks that are alike, drawn as one mark. */
export interface AlikeNetworks {
  readonly ref: string
  /** Their numbers, in the order of the estate. */
  readonly members: readonly number[]
  /** What tells them from the many they are otherwise like. */
  readonly unlike: readonly string[]
}

/** The reference of the mark for networks that are alike, by the id of the first. */
export const alikeRef = (id: string): string => `alike/${id}`

/** Fewer networks than these are drawn one by one. */
const FEW = 3

/**
 * The networks that are drawn as one mark, by their numbers: those that are alike, without those
 * that are opened. Costs as likeness does.
 */
export function alikeNetworks(
  model: Model,
  isOpen: (what: string) => boolean,
): ReadonlyMap<number, AlikeNetworks> {
  const out = new Map<number, AlikeNetworks>()
  const idOf = (number: number): string => model.networks[number]!.id
  for (const { members, unlike } of likenessOf(model, 'networks').classes) {
    const drawn = members.filter((number) => !isOpen(idOf(number)))
    const ref = alikeRef(idOf(members[0]!))
    if (drawn.length < FEW || isOpen(ref)) continue
    const texts = unlike ? differencesOf(unlike, members[0]!).map(({ says }) => says) : []
    for (const number of drawn) out.set(number, { ref, members: drawn, unlike: texts })
  }
  return out
}

/** What a mark for networks says: their names, and what is different in them, or what each has. */
export function alikeWords(
  { networks, subnets: all, index }: Model,
  { members, unlike }: AlikeNetworks,
): { readonly name: string; readonly about: string } {
  const [first] = members.map((number) => networks[number]!) as [NetworkModel]
  const subnets = first.subnets.filter((number) => index.subnets.has(all[number]!.id)).length
  const each = `${members.length} networks, ${subnets} ${subnets === 1 ? 'subnet' : 'subnets'} each`
  return {
    name: `${first.id} and ${members.length - 1} like it`,
    about: unlike.length > 0 ? unlike.join('; ') : each,
  }
}
