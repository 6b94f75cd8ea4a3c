import type { Estate, Route } from '../format/estate'
import { eachOfEstateRules, eachReference } from '../format/validate/references'
import type { Model } from '../model/model'
import { targetOf, targetRef } from '../model/targets'

/** Who refers to whom, as `section/id` or `estateRules`, in the order of the estate. */
export interface References {
  readonly refersTo: ReadonlyMap<string, readonly string[]>
  readonly referredBy: ReadonlyMap<string, readonly string[]>
}

/** All references of an estate, those of routes and estate rules too. Costs one pass over it. */
export function referencesOf(model: Model): References {
  const { estate } = model
  const refersTo = new Map<string, Set<string>>()
  const referredBy = new Map<string, Set<string>>()
  const note = (from: string, to: string): void => {
    if (from === to) return
    for (const [map, key, value] of [
      [refersTo, from, to],
      [referredBy, to, from],
    ] as const) {
      const held = map.get(key)
      if (held) held.add(value)
      else map.set(key, new Set([value]))
    }
  }
  eachReference(estate, note)
  eachOfEstateRules(estate, (to) => note('estateRules', to))
  eachRoute(estate, (from, route) => {
    const ref = targetRef(targetOf(model.index, route.via))
    if (ref !== null) note(from, ref)
    if (typeof route.to === 'string') return
    if (route.to.prefixList !== undefined) note(from, `prefixLists/${route.to.prefixList}`)
    if (route.to.service !== undefined) note(from, `services/${route.to.service}`)
  })
  const lists = (map: ReadonlyMap<string, ReadonlySet<string>>) =>
    new Map([...map].map(([key, refs]) => [key, [...refs]]))
  return { refersTo: lists(refersTo), referredBy: lists(referredBy) }
}

function eachRoute(estate: Estate, tell: (from: string, route: Route) => void): void {
  for (const [id, table] of estate.routeTables)
    for (const route of table.routes ?? []) tell(`routeTables/${id}`, route)
  for (const [id, firewall] of estate.firewalls)
    if (firewall.style === 'routed')
      for (const route of firewall.routes ?? []) tell(`firewalls/${id}`, route as Route)
}
