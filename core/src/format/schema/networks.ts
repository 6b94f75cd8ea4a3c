import { z } from 'zod'
import { address, addresses, allOr, common, id, prefixes } from './values'

export const region = z.strictObject({ ...common, zones: z.array(id).optional() })

export const network = z.strictObject({
  ...common,
  region: id.optional(),
  ranges: prefixes.optional(),
  behaviour: z.enum(['table-routed', 'default-open', 'priority-routed']).optional(),
  defaultRouteTable: id.optional(),
  implicitEgress: z.boolean().optional(),
  levels: z.enum(['every', 'any']).optional(),
  nameServers: addresses.optional(),
})

export const role = z.enum(['public', 'private', 'isolated', 'inspection', 'transit'])

export const subnet = z.strictObject({
  ...common,
  network: id,
  ranges: prefixes,
  namedRanges: z.record(id, z.union([prefixes.min(1), prefixes.element])).optional(),
  zone: id.optional(),
  region: id.optional(),
  routeTable: id.optional(),
  boundary: id.optional(),
  ruleSets: z.array(id).optional(),
  privateServices: allOr(id).optional(),
  role: role.optional(),
  givesPublicAddresses: z.boolean().optional(),
})

export const networkInterface = z.strictObject({
  ...common,
  host: z.string().min(1).optional(),
  subnet: id.optional(),
  addresses: addresses.optional(),
  publicAddress: address.optional(),
  ruleSets: z.array(id).optional(),
  localRules: id.optional(),
  forwards: z.boolean().optional(),
})
