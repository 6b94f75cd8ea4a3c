import { z } from 'zod'
import {
  addresses,
  common,
  id,
  objectRef,
  port,
  prefix,
  prefixes,
  protocol,
  tagCondition,
  noteText,
  titleText,
} from './values'

export const service = z.strictObject({
  ...common,
  region: id.optional(),
  ranges: prefixes.optional(),
  names: z.array(z.string().min(1)).optional(),
})

const routedEndpoint = z.strictObject({
  ...common,
  style: z.literal('routed'),
  service: id,
  network: id.optional(),
})
const addressedEndpoint = z.strictObject({
  ...common,
  style: z.literal('addressed'),
  service: id,
  network: id.optional(),
  interfaces: z.array(id).optional(),
  privateNames: z.boolean().optional(),
})
export const endpoint = z.discriminatedUnion('style', [routedEndpoint, addressedEndpoint])

export const prefixList = z.strictObject({ ...common, ranges: prefixes.optional() })
export const site = z.strictObject({
  ...common,
  ranges: prefixes.optional(),
  internet: z.boolean().optional(),
})
export const party = z.strictObject({
  ...common,
  ranges: prefixes.optional(),
  names: z.array(z.string().min(1)).optional(),
  allowlist: prefixes.optional(),
})

export const frontend = z.strictObject({
  ...common,
  network: id.optional(),
  subnets: z.array(id).optional(),
  publicAddresses: addresses.optional(),
  privateAddresses: addresses.optional(),
  listeners: z
    .array(
      z.strictObject({
        protocol: protocol.optional(),
        port,
        targets: z.array(id).optional(),
        targetPort: port.optional(),
        title: titleText.optional(),
        note: noteText.optional(),
      }),
    )
    .optional(),
  ruleSets: z.array(id).optional(),
})

export const nameZone = z.strictObject({
  ...common,
  records: z.record(z.string().min(1), addresses).optional(),
  linkedTo: z.array(id).optional(),
})

const where = z.strictObject({
  tag: tagCondition.optional(),
  region: id.optional(),
  name: z.string().optional(),
})

export const group = z.strictObject({
  ...common,
  section: z.string(),
  members: z.array(id).optional(),
  where: where.optional(),
  except: z.array(id).optional(),
})

export const plannedRange = z.strictObject({
  ...common,
  ranges: prefixes,
  purpose: z.string().optional(),
})

const amount = z.number().min(0)
export const prices = z.strictObject({
  currency: z.string().optional(),
  natHour: amount.optional(),
  natGigabyte: amount.optional(),
  publicAddressHour: amount.optional(),
  endpointHour: amount.optional(),
  crossZoneGigabyte: amount.optional(),
})

const count = z.int().min(0)
export const quotas = z.strictObject({
  routesPerTable: count.optional(),
  peeringsPerNetwork: count.optional(),
  publicAddressesPerRegion: count.optional(),
})

export const requiredTag = z.strictObject({
  section: z.string(),
  where: where.optional(),
  keys: z.array(z.string().min(1)),
  title: titleText.optional(),
  note: noteText.optional(),
})

/**
 * Words that choose hosts or places in an expectation; `except` takes some of them out again
 * (design part 4.2).
 */
const term = z.union([z.literal('internet'), prefix, objectRef])
const chooser = {
  tag: tagCondition.optional(),
  role: z.string().optional(),
  network: id.optional(),
  region: id.optional(),
  site: id.optional(),
  party: id.optional(),
  service: id.optional(),
}
const plainSelector = z.union([term, z.strictObject(chooser)])
const selector = z.union([
  term,
  z.strictObject({
    ...chooser,
    any: z.array(plainSelector).optional(),
    except: z.union([plainSelector, z.array(plainSelector)]).optional(),
  }),
])
const selection = z.union([selector, z.array(selector)])

export const expectation = z.strictObject({
  ...common,
  from: selection.optional(),
  to: selection.optional(),
  except: selection.optional(),
  protocol: protocol.optional(),
  ports: z.array(z.union([port, z.string()])).optional(),
  must: z.enum(['never-reach', 'reach', 'pass', 'leave-by', 'appear-as', 'only-from']),
  by: z.array(objectRef).optional(),
  as: prefixes.optional(),
})
