import { z } from 'zod'
import {
  addresses,
  address,
  allOr,
  common,
  id,
  idMap,
  order,
  prefix,
  prefixes,
  state,
  noteText,
  titleText,
} from './values'

const ROUTE_WORDS = ['drop', 'internet', 'local'] as const
const viaObject = z.strictObject({
  nat: id.optional(),
  gateway: id.optional(),
  endpoint: id.optional(),
  peering: id.optional(),
  address: address.optional(),
  interface: id.optional(),
  inspect: id.optional(),
  transit: id.optional(),
})

/**
 * An object of which exactly one key must be there, checked with a message that names the choices.
 */
function exactlyOne<T extends z.ZodObject>(schema: T, what: string) {
  return schema.check((context) => {
    const keys = Object.keys(context.value as object)
    if (keys.length === 1) return
    const choices = Object.keys(schema.shape).join(', ')
    context.issues.push({
      code: 'custom',
      message: `${what} is exactly one of ${choices}; here ${keys.length === 0 ? 'is none' : `are ${keys.join(' and ')}`}`,
      params: { code: 'one-of' },
      input: context.value,
    })
  })
}

export const via = z.union([z.enum(ROUTE_WORDS), exactlyOne(viaObject, 'a next hop')])
export const destination = z.union([
  prefix,
  exactlyOne(
    z.strictObject({ prefixList: id.optional(), service: id.optional() }),
    'a destination',
  ),
])

export const route = z.strictObject({
  to: destination,
  via,
  priority: z.int().min(0).optional(),
  onlyTags: z.array(z.string()).optional(),
  state: state.optional(),
  title: titleText.optional(),
  note: noteText.optional(),
  tags: common.tags,
})

export const routeTable = z.strictObject({
  ...common,
  network: id.optional(),
  learn: z.union([z.enum(['all', 'none']), z.array(id)]).optional(),
  routes: z.array(route).optional(),
})

export const gateway = z.strictObject({
  ...common,
  kind: z.enum(['internet', 'outbound-v6', 'private']),
  network: id.optional(),
  routeTable: id.optional(),
  site: id.optional(),
  learned: prefixes.optional(),
  announces: prefixes.optional(),
})

export const nat = z.strictObject({
  ...common,
  network: id.optional(),
  kind: z.enum(['public', 'private']).optional(),
  placement: exactlyOne(
    z.strictObject({ subnet: id.optional(), region: id.optional() }),
    'a placement',
  ).optional(),
  serves: z
    .strictObject({
      subnets: allOr(id).optional(),
      ranges: z.union([z.enum(['all', 'primary']), z.array(id)]).optional(),
    })
    .optional(),
  addresses: addresses.optional(),
  allocation: z.enum(['manual', 'automatic']).optional(),
  rules: z
    .array(
      z.strictObject({
        order,
        to: prefixes,
        use: addresses,
        title: titleText.optional(),
        note: noteText.optional(),
      }),
    )
    .optional(),
  draining: addresses.optional(),
  portsPerHost: z.int().min(1).max(64512).optional(),
})

export const publicAddress = z.strictObject({
  ...common,
  reserved: z.boolean().optional(),
  region: id.optional(),
})

const peeringSide = z.strictObject({
  network: id,
  acceptsForwarded: z.boolean().optional(),
  usesPeerGateway: z.boolean().optional(),
  lendsGateway: z.boolean().optional(),
})
export const peering = z.strictObject({ ...common, a: peeringSide, b: peeringSide })

const attachment = z.strictObject({
  ...common,
  network: id.optional(),
  subnets: z.array(id).optional(),
  gateway: id.optional(),
  transit: id.optional(),
  table: id.optional(),
})
const transitRoute = z.strictObject({
  to: destination,
  via: z.union([z.literal('drop'), id]),
  state: state.optional(),
  title: titleText.optional(),
  note: noteText.optional(),
})
const transitTable = z.strictObject({
  ...common,
  learn: z.union([z.enum(['all', 'none']), z.array(id)]).optional(),
  routes: z.array(transitRoute).optional(),
})
export const transit = z.strictObject({
  ...common,
  attachments: idMap(attachment).optional(),
  tables: idMap(transitTable).optional(),
})
