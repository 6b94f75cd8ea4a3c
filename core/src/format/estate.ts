import type { z } from 'zod'
import type {
  ListSection,
  listSections,
  MapSection,
  mapSections,
  Section,
  singleSections,
} from './schema/document'
import type { appliesTo, peer } from './schema/rules'
import type { destination, via } from './schema/routing'

/** The object of a section, as the format has it. */
export type EstateObject<S extends MapSection> = z.output<(typeof mapSections)[S]>

/**
 * An estate as read: every section a map from id to object in the order of the document. Addresses
 * and prefixes stay the texts they were written as; the model gives them meaning.
 *
 * Sections are `Map`s because a plain object would move ids made of digits to the front.
 */
export type Estate = {
  readonly name: string
} & { readonly [S in MapSection]: ReadonlyMap<string, EstateObject<S>> } & {
  readonly [S in ListSection]: readonly z.output<(typeof listSections)[S]>[]
} & {
  readonly prices: z.output<typeof singleSections.prices> | null
  readonly quotas: z.output<typeof singleSections.quotas> | null
  /**
   * The sections the document names, in its order, so that the writer can give the same document
   * back.
   */
  readonly order: readonly Section[]
}

export type Network = EstateObject<'networks'>
export type Subnet = EstateObject<'subnets'>
export type NetworkInterface = EstateObject<'interfaces'>
export type RouteTable = EstateObject<'routeTables'>
export type Route = NonNullable<RouteTable['routes']>[number]
export type Via = z.output<typeof via>
export type Destination = z.output<typeof destination>
export type Gateway = EstateObject<'gateways'>
export type Nat = EstateObject<'nats'>
export type Peering = EstateObject<'peerings'>
export type Transit = EstateObject<'transits'>
export type Firewall = EstateObject<'firewalls'>
export type RuleSet = EstateObject<'ruleSets'>
export type Rule = NonNullable<RuleSet['rules']>[number]
export type Peer = z.output<typeof peer>
export type EstateRule = z.output<(typeof listSections)['estateRules']>
export type AppliesTo = z.output<typeof appliesTo>
export type State = NonNullable<Network['state']>
