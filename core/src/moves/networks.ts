import { prefixesOverlap, prefixOf } from '../address/prefix'
import type { Model } from '../model/model'

/** The ranges of a network as they are written; none of one that is not there. */
export const rangesOfNetwork = ({ estate }: Model, id: string): readonly string[] =>
  estate.networks.get(id)?.ranges ?? []

/** Whether two networks have addresses in common. */
export function networksOverlap(model: Model, a: string, b: string): boolean {
  const [one, other] = [a, b].map((id) => rangesOfNetwork(model, id).map(prefixOf))
  return one!.some((x) => other!.some((y) => prefixesOverlap(x, y)))
}
