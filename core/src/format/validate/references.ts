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
import type { AppliesTo, Peer } from '../estate'
import { splitRef } from '../ref'
import type { Checking } from './checking'

type Refer = (section: MapSection, id: string | undefined, path: Path) => void

/**
 * Reports every reference to an object that is not in the estate, except from routes, where that is
 * how a deleted target looks.
 */
export function checkReferences(checking: Checking): void {
  const { estate, declared, error } = checking
  const zones = new Set([...estate.regions.values()].flatMap((region) => region.zones ?? []))

  const refer =
    (section: Section, id: string, object?: string): Refer =>
    (target, targetId, path) => {
      if (targetId === undefined || declared(target).has(targetId)) return
      const meant = nearest(targetId, [...declared(target).keys()])
      error(
        { section, id, path, object },
        'dangling-reference',
        `${pathText(path)}: there is no "${targetId}" in ${target}${meant ? `; did you mean "${meant}"?` : ''}`,
        meant,
      )
    }
  const each = <S extends MapSection>(
    section: S,
    visit: (
      object: NonNullable<ReturnType<(typeof estate)[S]['get']>>,
      refer: Refer,
      id: string,
    ) => void,
  ): void => {
    for (const [id, object] of estate[section] as ReadonlyMap<string, never>)
      visit(object, refer(section, id), id)
  }
  const list = (ids: unknown, target: MapSection, path: Path, to: Refer): void => {
    if (Array.isArray(ids)) ids.forEach((one: string, index) => to(target, one, [...path, index]))
  }
  const peers = (all: readonly Peer[] | undefined, path: Path, to: Refer): void =>
    all?.forEach((peer, index) => {
      if (typeof peer === 'string') return
      if ('prefixList' in peer) to('prefixLists', peer.prefixList, [...path, index, 'prefixList'])
      if ('ruleSet' in peer) to('ruleSets', peer.ruleSet, [...path, index, 'ruleSet'])
      if ('service' in peer) to('services', peer.service, [...path, index, 'service'])
    })
  const objectRef = (
    ref: string,
    path: Path,
    section: Section,
    id: string,
    object?: string,
  ): void => {
    const [target, rest] = splitRef(ref)
    if (isMapSection(target)) refer(section, id, object)(target, rest, path)
    else if (!isListSection(target)) {
      const meant = nearest(target, [...SECTIONS])
      error(
        { section, id, path, object },
        'dangling-reference',
        `${pathText(path)}: "${target}" is no section${meant ? `; did you mean "${meant}"?` : ''}`,
        meant && `${meant}/${rest}`,
      )
    }
  }

  each('networks', (network, to) => {
    to('regions', network.region, ['region'])
    to('routeTables', network.defaultRouteTable, ['defaultRouteTable'])
  })
  each('subnets', (subnet, to, id) => {
    to('networks', subnet.network, ['network'])
    to('regions', subnet.region, ['region'])
    to('routeTables', subnet.routeTable, ['routeTable'])
    to('ruleSets', subnet.boundary, ['boundary'])
    list(subnet.ruleSets, 'ruleSets', ['ruleSets'], to)
    list(subnet.privateServices, 'services', ['privateServices'], to)
    if (subnet.zone !== undefined && !zones.has(subnet.zone)) {
      const meant = nearest(subnet.zone, [...zones])
      error(
        { section: 'subnets', id, path: ['zone'] },
        'dangling-reference',
        `zone: no region has a zone "${subnet.zone}"${meant ? `; did you mean "${meant}"?` : ''}`,
        meant,
      )
    }
  })
  each('interfaces', (one, to) => {
    to('subnets', one.subnet, ['subnet'])
    list(one.ruleSets, 'ruleSets', ['ruleSets'], to)
    to('ruleSets', one.localRules, ['localRules'])
  })
  each('routeTables', (table, to) => {
    to('networks', table.network, ['network'])
    if (Array.isArray(table.learn)) {
      table.learn.forEach((source, index) => {
        if (!declared('gateways').has(source) && !declared('transits').has(source))
          to('gateways', source, ['learn', index])
      })
    }
  })
  each('gateways', (gateway, to) => {
    to('networks', gateway.network, ['network'])
    to('routeTables', gateway.routeTable, ['routeTable'])
    to('sites', gateway.site, ['site'])
  })
  each('nats', (nat, to) => {
    to('networks', nat.network, ['network'])
    to('subnets', nat.placement?.subnet, ['placement', 'subnet'])
    to('regions', nat.placement?.region, ['placement', 'region'])
    list(nat.serves?.subnets, 'subnets', ['serves', 'subnets'], to)
  })
  each('publicAddresses', (address, to) => to('regions', address.region, ['region']))
  each('peerings', (peering, to) => {
    to('networks', peering.a.network, ['a', 'network'])
    to('networks', peering.b.network, ['b', 'network'])
  })
  each('transits', (transit, to, id) => {
    const attachments = Object.keys(transit.attachments ?? {})
    const tables = Object.keys(transit.tables ?? {})
    const own = (name: string | undefined, known: string[], what: string, path: Path): void => {
      if (name === undefined || known.includes(name)) return
      const meant = nearest(name, known)
      error(
        { section: 'transits', id, path },
        'dangling-reference',
        `${pathText(path)}: this transit has no ${what} "${name}"${meant ? `; did you mean "${meant}"?` : ''}`,
        meant,
      )
    }
    for (const [name, attachment] of Object.entries(transit.attachments ?? {})) {
      const path = ['attachments', name]
      to('networks', attachment.network, [...path, 'network'])
      to('gateways', attachment.gateway, [...path, 'gateway'])
      to('transits', attachment.transit, [...path, 'transit'])
      list(attachment.subnets, 'subnets', [...path, 'subnets'], to)
      own(attachment.table, tables, 'table', [...path, 'table'])
    }
    for (const [name, table] of Object.entries(transit.tables ?? {})) {
      if (Array.isArray(table.learn))
        table.learn.forEach((source, index) =>
          own(source, attachments, 'attachment', ['tables', name, 'learn', index]),
        )
    }
  })
  each('firewalls', (firewall, to, id) => {
    to('networks', firewall.network, ['network'])
    if (firewall.style === 'routed') {
      for (const [side, one] of Object.entries(firewall.interfaces ?? {}))
        to('interfaces', one, ['interfaces', side])
      const sides = Object.keys(firewall.interfaces ?? {})
      const side = (name: string | undefined, path: Path): void => {
        if (name === undefined || sides.includes(name)) return
        const meant = nearest(name, sides)
        error(
          { section: 'firewalls', id, path },
          'dangling-reference',
          `${pathText(path)}: this firewall has no side "${name}"${meant ? `; did you mean "${meant}"?` : ''}`,
          meant,
        )
      }
      firewall.policy?.forEach((rule, index) => {
        side(rule.fromSide, ['policy', index, 'fromSide'])
        side(rule.toSide, ['policy', index, 'toSide'])
      })
      firewall.sourceTranslation?.forEach((rule, index) => {
        side(rule.fromSide, ['sourceTranslation', index, 'fromSide'])
        side(rule.toSide, ['sourceTranslation', index, 'toSide'])
      })
      firewall.destinationTranslation?.forEach((rule, index) =>
        side(rule.at, ['destinationTranslation', index, 'at']),
      )
    } else {
      for (const [name, endpoint] of Object.entries(firewall.endpoints ?? {}))
        to('subnets', endpoint.subnet, ['endpoints', name, 'subnet'])
    }
    firewall.policy?.forEach((rule, index) => {
      peers(rule.from, ['policy', index, 'from'], to)
      peers(rule.to, ['policy', index, 'to'], to)
    })
  })
  each('services', (service, to) => to('regions', service.region, ['region']))
  each('endpoints', (endpoint, to) => {
    to('services', endpoint.service, ['service'])
    to('networks', endpoint.network, ['network'])
    if (endpoint.style === 'addressed') list(endpoint.interfaces, 'interfaces', ['interfaces'], to)
  })
  each('ruleSets', (set, to) =>
    set.rules?.forEach((rule, index) => peers(rule.peers, ['rules', index, 'peers'], to)),
  )
  each('frontends', (frontend, to) => {
    to('networks', frontend.network, ['network'])
    list(frontend.subnets, 'subnets', ['subnets'], to)
    list(frontend.ruleSets, 'ruleSets', ['ruleSets'], to)
    frontend.listeners?.forEach((listener, index) =>
      list(listener.targets, 'interfaces', ['listeners', index, 'targets'], to),
    )
  })
  each('nameZones', (zone, to) => list(zone.linkedTo, 'networks', ['linkedTo'], to))
  each('groups', (group, to, id) => {
    if (!isMapSection(group.section)) {
      const meant = nearest(group.section, MAP_SECTIONS)
      error(
        { section: 'groups', id, path: ['section'] },
        'dangling-reference',
        `section: "${group.section}" is no section${meant ? `; did you mean "${meant}"?` : ''}`,
        meant,
      )
      return
    }
    for (const key of ['members', 'except'] as const) {
      group[key]?.forEach((member, index) => {
        if (declared(group.section as MapSection).has(member)) return
        const other = MAP_SECTIONS.find((section) => declared(section).has(member))
        if (other)
          error(
            { section: 'groups', id, path: [key, index] },
            'group-member',
            `${key}: "${member}" is in ${other}; this group's members are ${group.section}`,
          )
        else to(group.section as MapSection, member, [key, index])
      })
    }
    to('regions', group.where?.region, ['where', 'region'])
  })
  const ruleIds = checking.listIds('estateRules')
  estate.estateRules.forEach((rule, index) => {
    const id = ruleIds[index]!
    const object = `estateRules/${rule.order}`
    peers(rule.peers, ['peers'], refer('estateRules', id, object))
    const appliesTo: AppliesTo | undefined = rule.appliesTo
    if (Array.isArray(appliesTo))
      appliesTo.forEach((ref, at) => objectRef(ref, ['appliesTo', at], 'estateRules', id, object))
    else if (typeof appliesTo === 'object' && 'region' in appliesTo)
      refer('estateRules', id, object)('regions', appliesTo.region, ['appliesTo', 'region'])
  })
  const tagIds = checking.listIds('requiredTags')
  estate.requiredTags.forEach((required, index) => {
    if (isMapSection(required.section)) return
    const meant = nearest(required.section, MAP_SECTIONS)
    error(
      { section: 'requiredTags', id: tagIds[index]!, path: ['section'] },
      'dangling-reference',
      `section: "${required.section}" is no section${meant ? `; did you mean "${meant}"?` : ''}`,
      meant,
    )
  })
  each('expectations', (expectation, to, id) => {
    expectation.by?.forEach((ref, index) => objectRef(ref, ['by', index], 'expectations', id))
    for (const key of ['from', 'to', 'except'] as const)
      selection(expectation[key], [key], to, (ref, path) =>
        objectRef(ref, path, 'expectations', id),
      )
  })
}

const SELECTOR_SECTIONS = {
  network: 'networks',
  region: 'regions',
  site: 'sites',
  party: 'parties',
  service: 'services',
} as const

function selection(
  value: unknown,
  path: Path,
  to: Refer,
  objectRef: (ref: string, path: Path) => void,
): void {
  if (Array.isArray(value))
    return value.forEach((one, index) => selection(one, [...path, index], to, objectRef))
  if (typeof value === 'string') {
    if (/^[A-Za-z]+\//.test(value) && !value.includes(':')) objectRef(value, path)
    return
  }
  if (typeof value !== 'object' || value === null) return
  for (const [key, inner] of Object.entries(value)) {
    if (key in SELECTOR_SECTIONS)
      to(SELECTOR_SECTIONS[key as keyof typeof SELECTOR_SECTIONS], inner as string, [...path, key])
    else if (key === 'any' || key === 'except') selection(inner, [...path, key], to, objectRef)
  }
}
