import { z } from 'zod'
import {
  addresses,
  address,
  common,
  id,
  idMap,
  objectRef,
  order,
  port,
  portRange,
  prefix,
  prefixes,
  protocol,
  tagCondition,
  noteText,
  titleText,
} from './values'

const ports = z.array(portRange)
const allowOrDeny = z.enum(['allow', 'deny'])
const notes = { title: titleText.optional(), note: noteText.optional() }

/** The far side of a rule. */
export const peer = z.union([
  z.enum(['any', 'internet']),
  prefix,
  z.strictObject({ prefixList: id }),
  z.strictObject({ ruleSet: id }),
  z.strictObject({ service: id }),
  z.strictObject({ tag: tagCondition }),
])

const match = {
  direction: z.enum(['in', 'out']),
  protocol: protocol.optional(),
  ports: ports.optional(),
  sourcePorts: ports.optional(),
  peers: z.array(peer).optional(),
  local: prefixes.optional(),
  ...notes,
}

export const rule = z.strictObject({
  order: order.optional(),
  action: allowOrDeny.optional(),
  ...match,
})

export const ruleSet = z.strictObject({
  ...common,
  stateful: z.boolean().optional(),
  rules: z.array(rule).optional(),
  otherwise: z.strictObject({ in: allowOrDeny.optional(), out: allowOrDeny.optional() }).optional(),
})

export const appliesTo = z.union([
  z.literal('all'),
  z.array(objectRef),
  z.strictObject({ tag: tagCondition }),
  z.strictObject({ region: id }),
])

export const estateRule = z.strictObject({
  ...common,
  order,
  action: z.enum(['allow', 'deny', 'defer']),
  ...match,
  appliesTo: appliesTo.optional(),
})

const policyPeers = z.array(
  z.union([prefix, z.strictObject({ prefixList: id }), z.strictObject({ ruleSet: id })]),
)
const policyRule = z.strictObject({
  order,
  fromSide: z.string().optional(),
  toSide: z.string().optional(),
  from: policyPeers.optional(),
  to: policyPeers.optional(),
  protocol: protocol.optional(),
  ports: ports.optional(),
  sourcePorts: ports.optional(),
  application: z.string().optional(),
  action: allowOrDeny,
  ...notes,
})

const firewallRoute = z.strictObject({
  to: prefix,
  via: z.union([z.literal('drop'), z.strictObject({ address })]),
  state: common.state,
  ...notes,
})

const policy = {
  stateful: z.boolean().optional(),
  policy: z.array(policyRule).optional(),
  otherwise: allowOrDeny.optional(),
}

const routedFirewall = z.strictObject({
  ...common,
  style: z.literal('routed'),
  network: id.optional(),
  interfaces: idMap(id).optional(),
  routes: z.array(firewallRoute).optional(),
  ...policy,
  sourceTranslation: z
    .array(
      z.strictObject({
        fromSide: z.string().optional(),
        toSide: z.string().optional(),
        use: z.union([z.literal('interface'), addresses.min(1)]),
        ...notes,
      }),
    )
    .optional(),
  destinationTranslation: z
    .array(
      z.strictObject({
        at: z.string().optional(),
        protocol: protocol.optional(),
        port: port.optional(),
        forward: z.strictObject({ address, port: port.optional() }),
        ...notes,
      }),
    )
    .optional(),
})

const inlineFirewall = z.strictObject({
  ...common,
  style: z.literal('inline'),
  network: id.optional(),
  endpoints: idMap(z.strictObject({ ...common, subnet: id })).optional(),
  ...policy,
})

export const firewall = z.discriminatedUnion('style', [routedFirewall, inlineFirewall])
