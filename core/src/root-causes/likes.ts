import { networksOfObject } from '../findings/network'
import { splitRef } from '../format/ref'
import { isMapSection } from '../format/schema/document'
import {
  areOfMany,
  countKin,
  isAlikeSection,
  likenessOf,
  type AlikeSection,
  type Likeness,
} from '../likeness/likeness'
import { differencesOf } from '../likeness/words'
import type { Model } from '../model/model'
import { presentOf } from '../model/present'
import type { RootsToName } from './words'

/**
 * Among how many objects of their section some are: the many that are like them where likeness is
 * looked for, and null where no many are; else all, and null where they are in no section.
 */
export function likesOf(
  model: Model,
  section: string,
  objects: readonly string[],
): Pick<RootsToName, 'of' | 'areAlike'> {
  if (!isMapSection(section)) return { of: null, areAlike: false }
  if (objects.length === 1 || !isAlikeSection(section))
    return { of: presentOf(model, section).length, areAlike: false }
  const numbers = numbersOf(model, section, objects)
  const likeness = likenessOf(model, section)
  return areOfMany(likeness, numbers)
    ? { of: countKin(likeness, numbers), areAlike: true }
    : { of: null, areAlike: false }
}

/** More objects than these are not asked for what is different in them. */
const MOST_ASKED = 500
/** So many differences are told. */
const MOST_TOLD = 3

/**
 * What tells some objects from the many they are otherwise like, in words: of objects that are not
 * compared themselves, what tells their networks. None where one of them is as its likes are.
 */
export function unlikeTexts(model: Model, objects: readonly string[]): string[] {
  const texts = new Map<string, string>()
  for (const object of objects.slice(0, MOST_ASKED)) {
    const own = differencesAt(model, object)
    if (own.length === 0) return []
    for (const { says, key } of own) if (!texts.has(key)) texts.set(key, says)
  }
  return [...texts.values()].slice(0, MOST_TOLD)
}

interface Told {
  readonly says: string
  /** The same for differences that are the same but for names. */
  readonly key: string
}

function differencesAt(model: Model, object: string): Told[] {
  const [section] = splitRef(object)
  const direct = isAlikeSection(section) ? differencesIn(model, section, object) : []
  if (direct.length > 0 || section === 'networks') return direct
  const networks = networksOfObject(model.estate, object)
  return networks.flatMap((id) => differencesIn(model, 'networks', `networks/${id}`))
}

function differencesIn(model: Model, section: AlikeSection, object: string): Told[] {
  const likeness: Likeness = likenessOf(model, section)
  const [number = -1] = numbersOf(model, section, [object])
  const unlike = likeness.classes[likeness.classOf.get(number) ?? -1]?.unlike
  if (!unlike) return []
  return differencesOf(unlike, number).map(({ says, has, lacks }) => ({
    says,
    key: `${lacks?.number} ${has?.number}`,
  }))
}

/** The numbers of the objects of a section among some. */
export const numbersOf = (
  model: Model,
  section: AlikeSection | 'interfaces',
  refs: readonly string[],
): number[] =>
  refs.flatMap((ref) =>
    ref.startsWith(`${section}/`) ? (model.index[section].get(splitRef(ref)[1]) ?? []) : [],
  )
