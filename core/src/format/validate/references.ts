import {
  isListSection,
  isMapSection,
  MAP_SECTIONS,
  SECTIONS,
  type MapSection,
  type Section,
} from '../schema/document'

import { nearest, pathText } from '../read/issues'
import type { Path } from '../read/source'
import type { AppliesTo, Estate, EstateObject, Peer } from '../estate'
import { splitRef } from '../ref'
import type { Checking } from './checking'

/** Where a reference stands: the object that makes it. */
interface At {
  readonly section: Section
  readonly id: string
  /** How the object is called, where not by its section and id. */
  readonly object?: string
}

/** What the references of one object are reported with. */
interface Reporter {
  readonly checking: Checking
  /** A reference to an object of a section. */
  readonly to: (section: MapSection, id: string | undefined, path: Path) => void
  /** Several of them. */
  readonly list: (section: MapSection, ids: unknown, path: Path) => void
  readonly peers: (peers: readonly Peer[] | undefined, path: Path) => void
  /** A reference with its section, as `section/id`. */
  readonly ref: (ref: string, path: Path) => void
  /** A name that must be one of some; `what` says that it is not. */
  readonly name: (
    name: string | undefined,
    known: readonly string[],
    path: Path,
    what: string,
  ) => void
}

/**
 * Reports every reference to an object that is not in the estate, except from routes, where that is
 * how a deleted target looks.
 */
export function checkReferences(checking: Checking): void {
  const { estate } = checking
  for (const section of Object.keys(REFERENCES) as MapSection[]) {
    const check = REFERENCES[section] as
      ((object: never, report: Reporter, id: string) => void) | null
    if (check === null) continue
    for (const [id, object] of estate[section] as ReadonlyMap<string, never>)
      check(object, reporter(checking, { section, id }), id)
  }
  checkEstateRules(checking)
  checkRequiredTags(checking)
}

/**
 * Every reference from one object of a map section to another, by their ids, but for routes'.
 * Nothing is checked.
 */
export function eachReference(estate: Estate, tell: (from: string, to: string) => void): void {
  const checking = unchecked(estate)
  for (const section of Object.keys(REFERENCES) as MapSection[]) {
    const check = REFERENCES[section] as
      ((object: never, report: Reporter, id: string) => void) | null
    if (check === null) continue
    for (const [id, object] of estate[section] as ReadonlyMap<string, never>) {
      const from = `${section}/${id}`
      const told = telling(checking, (to) => tell(from, to))
      check(object, reporter(checking, { section, id }, told), id)
    }
  }
}

/** Every object that the estate rules refer to. Nothing is checked. */
export function eachOfEstateRules(estate: Estate, tell: (to: string) => void): void {
  const checking = unchecked(estate)
  checkEstateRules(checking, telling(checking, tell))
}

/** What is asked of an estate whose faults are told elsewhere. */
function unchecked(estate: Estate): Checking {
  const silent = (): void => undefined
  const declared = (section: Section) => {
    const held: unknown = estate[section]
    return held instanceof Map ? (held as ReadonlyMap<string, unknown>) : NO_IDS
  }
  return { estate, declared, listIds: () => [], error: silent, warning: silent }
}

/** Tells what a reference leads to, as `section/id`, where that is there. */
const telling =
  ({ declared }: Checking, tell: (to: string) => void): Reporter['to'] =>
  (target, id) => {
    if (id !== undefined && declared(target).has(id)) tell(`${target}/${id}`)
  }

const NO_IDS: ReadonlyMap<string, unknown> = new Map()

function reporter(checking: Checking, at: At, told?: Reporter['to']): Reporter {
  const { declared, error } = checking
  const name: Reporter['name'] = (wanted, known, path, what) => {
    if (wanted === undefined || known.includes(wanted)) return
    const meant = nearest(wanted, known)
    error(
      { ...at, path },
      'dangling-reference',
      `${pathText(path)}: ${what}${meant ? `; did you mean "${meant}"?` : ''}`,
      meant,
    )
  }
  const to: Reporter['to'] = (section, id, path) => {
    told?.(section, id, path)
    if (id === undefined || declared(section).has(id)) return
    name(id, [...declared(section).keys()], path, `there is no "${id}" in ${section}`)
  }
  return {
    checking,
    name,
    to,
    list: (section, ids, path) => {
      if (Array.isArray(ids)) ids.forEach((id: string, at) => to(section, id, [...path, at]))
    },
    peers: (peers, path) =>
      peers?.forEach((peer, at) => {
        if (typeof peer === 'string') return
        if ('prefixList' in peer) to('prefixLists', peer.prefixList, [...path, at, 'prefixList'])
        if ('ruleSet' in peer) to('ruleSets', peer.ruleSet, [...path, at, 'ruleSet'])
        if ('service' in peer) to('services', peer.service, [...path, at, 'service'])
      }),
    ref: (ref, path) => {
      const [target, rest] = splitRef(ref)
      if (isMapSection(target)) return to(target, rest, path)
      if (isListSection(target)) return
      const meant = nearest(target, [...SECTIONS])
      error(
        { ...at, path },
        'dangling-reference',
        `${pathText(path)}: "${target}" is no section${meant ? `; did you mean "${meant}"?` : ''}`,
        meant && `${meant}/${rest}`,
      )
    },
  }
}

/** By section, what its objects refer to; null for objects that refer to none. */
const REFERENCES: {
  readonly [S in MapSection]:
    ((object: EstateObject<S>, report: Reporter, id: string) => void) | null
} = {
  regions: null,
  networks: (network, { to }) => {
    to('regions', network.region, ['region'])
    to('routeTables', network.defaultRouteTable, ['defaultRouteTable'])
  },
  subnets: (subnet, { to, list, name, checking: { estate } }) => {
    to('networks', subnet.network, ['network'])
    to('regions', subnet.region, ['region'])
    to('routeTables', subnet.routeTable, ['routeTable'])
    to('ruleSets', subnet.boundary, ['boundary'])
    list('ruleSets', subnet.ruleSets, ['ruleSets'])
    list('services', subnet.privateServices, ['privateServices'])
    if (subnet.zone === undefined) return
    const zones = [...new Set([...estate.regions.values()].flatMap((region) => region.zones ?? []))]
    name(subnet.zone, zones, ['zone'], `no region has a zone "${subnet.zone}"`)
  },
  interfaces: (one, { to, list }) => {
    to('subnets', one.subnet, ['subnet'])
    list('ruleSets', one.ruleSets, ['ruleSets'])
    to('ruleSets', one.localRules, ['localRules'])
  },
  routeTables: (table, { to, checking: { declared } }) => {
    to('networks', table.network, ['network'])
    if (!Array.isArray(table.learn)) return
    table.learn.forEach((source, at) => {
      if (!declared('gateways').has(source) && !declared('transits').has(source))
        to('gateways', source, ['learn', at])
    })
  },
  gateways: (gateway, { to }) => {
    to('networks', gateway.network, ['network'])
    to('routeTables', gateway.routeTable, ['routeTable'])
    to('sites', gateway.site, ['site'])
  },
  nats: (nat, { to, list }) => {
    to('networks', nat.network, ['network'])
    to('subnets', nat.placement?.subnet, ['placement', 'subnet'])
    to('regions', nat.placement?.region, ['placement', 'region'])
    list('subnets', nat.serves?.subnets, ['serves', 'subnets'])
  },
  publicAddresses: (address, { to }) => to('regions', address.region, ['region']),
  peerings: (peering, { to }) => {
    to('networks', peering.a.network, ['a', 'network'])
    to('networks', peering.b.network, ['b', 'network'])
  },
  transits: referencesOfTransit,
  firewalls: referencesOfFirewall,
  services: (service, { to }) => to('regions', service.region, ['region']),
  endpoints: (endpoint, { to, list }) => {
    to('services', endpoint.service, ['service'])
    to('networks', endpoint.network, ['network'])
    if (endpoint.style === 'addressed') list('interfaces', endpoint.interfaces, ['interfaces'])
  },
  ruleSets: (set, { peers }) =>
    set.rules?.forEach((rule, at) => peers(rule.peers, ['rules', at, 'peers'])),
  frontends: (frontend, { to, list }) => {
    to('networks', frontend.network, ['network'])
    list('subnets', frontend.subnets, ['subnets'])
    list('ruleSets', frontend.ruleSets, ['ruleSets'])
    frontend.listeners?.forEach((listener, at) =>
      list('interfaces', listener.targets, ['listeners', at, 'targets']),
    )
  },
  nameZones: (zone, { list }) => list('networks', zone.linkedTo, ['linkedTo']),
  groups: referencesOfGroup,
  expectations: (expectation, report) => {
    expectation.by?.forEach((ref, at) => report.ref(ref, ['by', at]))
    for (const key of ['from', 'to', 'except'] as const) selection(expectation[key], [key], report)
  },
  sites: null,
  parties: null,
  prefixLists: null,
  plannedRanges: null,
}

function referencesOfTransit(transit: EstateObject<'transits'>, report: Reporter): void {
  const { to, list, name } = report
  const attachments = Object.keys(transit.attachments ?? {})
  const tables = Object.keys(transit.tables ?? {})
  for (const [label, attachment] of Object.entries(transit.attachments ?? {})) {
    const path = ['attachments', label]
    to('networks', attachment.network, [...path, 'network'])
    to('gateways', attachment.gateway, [...path, 'gateway'])
    to('transits', attachment.transit, [...path, 'transit'])
    list('subnets', attachment.subnets, [...path, 'subnets'])
    const { table } = attachment
    name(table, tables, [...path, 'table'], `this transit has no table "${table}"`)
  }
  for (const [label, table] of Object.entries(transit.tables ?? {})) {
    if (!Array.isArray(table.learn)) continue
    table.learn.forEach((source, at) =>
      name(
        source,
        attachments,
        ['tables', label, 'learn', at],
        `this transit has no attachment "${source}"`,
      ),
    )
  }
}

function referencesOfFirewall(firewall: EstateObject<'firewalls'>, report: Reporter): void {
  const { to, peers } = report
  to('networks', firewall.network, ['network'])
  if (firewall.style === 'routed') referencesOfSides(firewall, report)
  else
    for (const [label, endpoint] of Object.entries(firewall.endpoints ?? {}))
      to('subnets', endpoint.subnet, ['endpoints', label, 'subnet'])
  firewall.policy?.forEach((rule, at) => {
    peers(rule.from, ['policy', at, 'from'])
    peers(rule.to, ['policy', at, 'to'])
  })
}

/** The interfaces of a routed firewall, and the sides that its rules name. */
function referencesOfSides(
  firewall: Extract<EstateObject<'firewalls'>, { style: 'routed' }>,
  { to, name }: Reporter,
): void {
  for (const [side, one] of Object.entries(firewall.interfaces ?? {}))
    to('interfaces', one, ['interfaces', side])
  const sides = Object.keys(firewall.interfaces ?? {})
  const side = (named: string | undefined, path: Path): void =>
    name(named, sides, path, `this firewall has no side "${named}"`)
  firewall.policy?.forEach((rule, at) => {
    side(rule.fromSide, ['policy', at, 'fromSide'])
    side(rule.toSide, ['policy', at, 'toSide'])
  })
  firewall.sourceTranslation?.forEach((rule, at) => {
    side(rule.fromSide, ['sourceTranslation', at, 'fromSide'])
    side(rule.toSide, ['sourceTranslation', at, 'toSide'])
  })
  firewall.destinationTranslation?.forEach((rule, at) =>
    side(rule.at, ['destinationTranslation', at, 'at']),
  )
}

function referencesOfGroup(group: EstateObject<'groups'>, report: Reporter, id: string): void {
  const { to, name, checking } = report
  const { section } = group
  if (!isMapSection(section))
    return name(section, MAP_SECTIONS, ['section'], `"${section}" is no section`)
  for (const key of ['members', 'except'] as const) {
    group[key]?.forEach((member, at) => {
      if (checking.declared(section).has(member)) return
      const other = MAP_SECTIONS.find((one) => checking.declared(one).has(member))
      if (other)
        checking.error(
          { section: 'groups', id, path: [key, at] },
          'group-member',
          `${key}: "${member}" is in ${other}; this group's members are ${section}`,
        )
      else to(section, member, [key, at])
    })
  }
  to('regions', group.where?.region, ['where', 'region'])
}

function checkEstateRules(checking: Checking, told?: Reporter['to']): void {
  const ids = checking.listIds('estateRules')
  checking.estate.estateRules.forEach((rule, at) => {
    const object = `estateRules/${rule.order}`
    const place = { section: 'estateRules', id: ids[at] ?? '', object } as const
    const { to, peers, ref } = reporter(checking, place, told)
    peers(rule.peers, ['peers'])
    const appliesTo: AppliesTo | undefined = rule.appliesTo
    if (Array.isArray(appliesTo)) appliesTo.forEach((one, index) => ref(one, ['appliesTo', index]))
    else if (typeof appliesTo === 'object' && 'region' in appliesTo)
      to('regions', appliesTo.region, ['appliesTo', 'region'])
  })
}

function checkRequiredTags(checking: Checking): void {
  const ids = checking.listIds('requiredTags')
  checking.estate.requiredTags.forEach(({ section }, at) => {
    const { name } = reporter(checking, { section: 'requiredTags', id: ids[at]! })
    name(section, MAP_SECTIONS, ['section'], `"${section}" is no section`)
  })
}

const SELECTOR_SECTIONS = {
  network: 'networks',
  region: 'regions',
  site: 'sites',
  party: 'parties',
  service: 'services',
} as const

function selection(value: unknown, path: Path, report: Reporter): void {
  if (Array.isArray(value))
    return value.forEach((one, index) => selection(one, [...path, index], report))
  if (typeof value === 'string') {
    if (/^[A-Za-z]+\//.test(value) && !value.includes(':')) report.ref(value, path)
    return
  }
  if (typeof value !== 'object' || value === null) return
  for (const [key, inner] of Object.entries(value)) {
    if (key in SELECTOR_SECTIONS)
      report.to(SELECTOR_SECTIONS[key as keyof typeof SELECTOR_SECTIONS], inner as string, [
        ...path,
        key,
      ])
    else if (key === 'any' || key === 'except') selection(inner, [...path, key], report)
  }
}
