import { splitRef } from '../format/ref'
import { isMapSection, type MapSection } from '../format/schema/document'
import type { Root, RootKind } from '../findings/root'
import { SECTION_WORDS } from './section-words'

/** Some roots of one kind, in objects of one section, that entry words are made of. */
export interface RootsToName {
  readonly roots: readonly Root[]
  /** Among how many objects of their section they are; null where they lie in none. */
  readonly of: number | null
  /** Whether those are like them but for what decides, not all of the section. */
  readonly areAlike: boolean
}

/** An object with what it is: `route table app`. */
function objectText(ref: string): string {
  const [section, id] = splitRef(ref)
  return isMapSection(section) ? `${SECTION_WORDS[section][0]} ${id}` : ref
}

/** What some refs have in common: the object itself, or what they are. */
function commonText(refs: readonly string[]): string {
  const [first = ''] = refs
  if (refs.every((ref) => ref === first)) return PART_WORDS[first] ?? objectText(first)
  const [section] = splitRef(first)
  return isMapSection(section) ? SECTION_WORDS[section][1] : 'several places'
}

/** Parts that are no object, in words; the names of attributes stand as in the format. */
const PART_WORDS: Readonly<Record<string, string>> = {
  internet: 'the internet',
  drop: 'nowhere',
  local: 'the network itself',
  private: 'private space nobody has',
  reserved: 'reserved space',
  public: 'public space nobody has',
  gateways: 'internet gateway',
  endpoints: 'endpoint for the service',
  answers: 'that lets answers through',
  out: 'that lets anything out',
  publicAddress: 'public address',
  ruleSets: 'rule set',
  allowlist: 'entry for us in its allowlist',
  routeTable: 'route table of its own',
  nameServers: 'name server in reach',
  networks: 'link to the network',
  routes: 'route back',
  listeners: 'listener',
}

/** `30 of 300 otherwise alike route tables`, or the only object by its name. */
function objectsText({ roots, of, areAlike }: RootsToName): string {
  const objects = [...new Set(roots.map(({ object }) => object))]
  if (objects.length === 1) return objectText(objects[0]!)
  const [section] = splitRef(objects[0]!)
  const words = SECTION_WORDS[section as MapSection]?.[1] ?? 'objects'
  if (of === null || of <= objects.length) return `${objects.length} ${words}`
  return `${objects.length} of ${of} ${areAlike ? 'otherwise alike ' : ''}${words}`
}

interface Named {
  /** The objects, such as `30 of 300 route tables`. */
  readonly objects: string
  /** What of them decides. */
  readonly part: string
  readonly isOne: boolean
}

/** By kind: what decides, as the beginning of a sentence. */
const DECIDES: Readonly<Record<RootKind, (named: Named) => string>> = {
  route: ({ objects, part, isOne }) => `${isOne ? 'the route' : 'routes'} of ${objects} to ${part}`,
  'missing-route': ({ objects, part, isOne }) =>
    `${objects} ${isOne ? 'has' : 'have'} no route to ${part}`,
  'built-in-route': ({ objects }) => `built-in routes of ${objects}`,
  'learned-route': ({ objects }) => `routes learned from ${objects}`,
  ring: ({ objects }) => `routes that lead round by ${objects}`,
  rule: ({ objects, isOne }) => `${isOne ? 'a rule' : 'rules'} of ${objects}`,
  'missing-rule': ({ objects, part, isOne }) =>
    `${objects} ${isOne ? 'has' : 'have'} no rule ${part}`,
  attribute: ({ objects, part }) => `the ${part} of ${objects}`,
  'missing-attribute': ({ objects, part, isOne }) =>
    `${objects} ${isOne ? 'has' : 'have'} no ${part}`,
  'missing-object': ({ objects, part, isOne }) => `${objects} ${isOne ? 'has' : 'have'} no ${part}`,
  promise: ({ objects }) => `what ${objects} promises`,
  unused: ({ objects, isOne }) => `${objects} ${isOne ? 'is' : 'are'} in use by nothing`,
  'unowned-space': () => 'space that nobody has',
}

/** What decides some findings, as the beginning of a sentence. Costs a step for each root. */
export function decidesText(named: RootsToName): string {
  const { roots } = named
  const isOne = new Set(roots.map(({ object }) => object)).size === 1
  const part = commonText(roots.map((root) => root.part))
  const text = DECIDES[roots[0]!.kind]({ objects: objectsText(named), part, isOne })
  return text[0]!.toUpperCase() + text.slice(1)
}
