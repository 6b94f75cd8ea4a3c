import type { Estate } from '../format/estate'
import type { MapSection } from '../format/schema/document'
import type { Model } from './model'
import { indexOf, isUp } from './sections'

/** What the compilation of every section asks: the estate, and what of it is as it was before. */
export interface Compiling {
  readonly estate: Estate
  readonly index: Model['index']
  /** The model of an earlier state; null where there is none. */
  readonly previous: Model | null
  /** What was made of a section before, with the estate it was made from. */
  readonly before: <T>(
    made: (model: Model) => readonly T[],
  ) => { readonly estate: Estate; readonly made: readonly T[] } | null
  /** Whether the numbers of all objects of some sections are as before. */
  readonly sameIndex: (...sections: MapSection[]) => boolean
  /** Whether some sections are the same objects as before. */
  readonly same: (...sections: MapSection[]) => boolean
  /** The number of an object by its id; −1 for none. */
  readonly of: (section: MapSection, id: string | undefined) => number
  /** The numbers of those objects that are there. */
  readonly all: (section: MapSection, ids: readonly string[] | undefined) => number[]
  /** Whether a subnet and its network are up. */
  readonly subnetUp: (id: string | undefined) => boolean
}

/** The compilation of an estate, given the model of an earlier state of it. */
export function compiling(estate: Estate, previous: Model | null): Compiling {
  const index = indexOf(estate, previous)
  const of: Compiling['of'] = (section, id) =>
    id === undefined ? -1 : (index[section].get(id) ?? -1)
  return {
    estate,
    index,
    previous,
    of,
    before: (made) => previous && { estate: previous.estate, made: made(previous) },
    sameIndex: (...sections) =>
      previous !== null && sections.every((section) => previous.index[section] === index[section]),
    same: (...sections) =>
      previous !== null &&
      sections.every((section) => previous.estate[section] === estate[section]),
    all: (section, ids) => (ids ?? []).map((id) => of(section, id)).filter((at) => at >= 0),
    subnetUp: (id) => {
      const subnet = id === undefined ? undefined : estate.subnets.get(id)
      return isUp(subnet) && isUp(estate.networks.get(subnet!.network))
    },
  }
}
