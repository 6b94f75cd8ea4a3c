import { z } from 'zod'
import { gateway, nat, peering, publicAddress, routeTable, transit } from './routing'
import { networkInterface, network, region, subnet } from './networks'
import { estateRule, firewall, ruleSet } from './rules'
import {
  endpoint,
  expectation,
  frontend,
  group,
  nameZone,
  party,
  plannedRange,
  prefixList,
  prices,
  quotas,
  requiredTag,
  service,
  site,
} from './services'
import { address, id } from './values'

export const FORMAT = 'salt-trail/1'
/** How many characters the name of an estate may have. */
export const MOST_NAME = 200

/**
 * The sections that are maps from id to object, in the order in which a new document writes them.
 */
export const mapSections = {
  regions: region,
  networks: network,
  subnets: subnet,
  interfaces: networkInterface,
  routeTables: routeTable,
  gateways: gateway,
  nats: nat,
  publicAddresses: publicAddress,
  peerings: peering,
  transits: transit,
  firewalls: firewall,
  services: service,
  endpoints: endpoint,
  prefixLists: prefixList,
  sites: site,
  parties: party,
  ruleSets: ruleSet,
  frontends: frontend,
  nameZones: nameZone,
  groups: group,
  plannedRanges: plannedRange,
  expectations: expectation,
} as const

/** The sections that are lists. */
export const listSections = { estateRules: estateRule, requiredTags: requiredTag } as const

/** The sections that are one object each. */
export const singleSections = { prices, quotas } as const

export type MapSection = keyof typeof mapSections
export type ListSection = keyof typeof listSections
export type SingleSection = keyof typeof singleSections
export type WholeSection = ListSection | SingleSection
export type Section = MapSection | WholeSection

export const MAP_SECTIONS = Object.keys(mapSections) as MapSection[]
export const LIST_SECTIONS = Object.keys(listSections) as ListSection[]
export const SINGLE_SECTIONS = Object.keys(singleSections) as SingleSection[]
/** The sections that are written and edited as one: their entries have no ids. */
export const WHOLE_SECTIONS: readonly WholeSection[] = [...LIST_SECTIONS, ...SINGLE_SECTIONS]
export const SECTIONS: readonly Section[] = [...MAP_SECTIONS, ...WHOLE_SECTIONS]

/** Whether a name is that of a section that is a map. */
export const isMapSection = (name: string): name is MapSection => Object.hasOwn(mapSections, name)
/** Whether a name is that of a section that is a list. */
export const isListSection = (name: string): name is ListSection =>
  Object.hasOwn(listSections, name)
/** Whether a name is that of a section that is one object. */
export const isSingleSection = (name: string): name is SingleSection =>
  Object.hasOwn(singleSections, name)
/** Whether a name is that of a section that is edited as one. */
export const isWholeSection = (name: string): name is WholeSection =>
  isListSection(name) || isSingleSection(name)

/** Keys of a section's map: ids, but addresses in `publicAddresses`. */
export const keySchema = (section: MapSection) => (section === 'publicAddresses' ? address : id)

/**
 * A whole document as one schema, for the published JSON Schema; the reader checks object by
 * object.
 */
export const documentSchema = z.strictObject({
  format: z.literal(FORMAT),
  name: z.string().min(1).max(MOST_NAME),
  ...(Object.fromEntries(
    MAP_SECTIONS.map((section) => [
      section,
      z.record(keySchema(section), mapSections[section]).optional(),
    ]),
  ) as unknown as Record<MapSection, z.ZodType>),
  ...(Object.fromEntries(
    LIST_SECTIONS.map((section) => [section, z.array(listSections[section]).optional()]),
  ) as unknown as Record<ListSection, z.ZodType>),
  prices: prices.optional(),
  quotas: quotas.optional(),
})
