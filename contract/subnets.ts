import type { HopsByOwner, WaysIn } from '@salt-trail/core'
import { z } from 'zod'
import { ofCore, cause, packet, text } from './parts'

export const subnetQuery = z
  .object({ subnet: text.min(1).max(128) })
  .meta({ id: 'SubnetQuery', description: 'The subnet that is asked about, by its id' })
const routeRef = z.object({
  to: z.string(),
  origin: z.string(),
  target: z.string(),
  table: z.string().nullable(),
  entry: z.int().nullable(),
})
const hopRange = z.object({
  family: z.union([z.literal(4), z.literal(6)]),
  from: z.string(),
  to: z.string(),
  prefixes: z.array(z.string()),
  winners: z.array(routeRef),
  shadowed: z.array(routeRef),
  way: z.array(z.string()),
  otherWays: z.array(z.array(z.string())),
  leavesBy: z.string().nullable(),
  seenAs: z.array(z.string()),
  cause: cause.extend({ inner: cause.optional() }).nullable(),
})

export const hopsAnswer = ofCore<HopsByOwner>(
  z
    .object({
      subnet: z.string(),
      kinds: z.array(
        z.object({
          hosts: z.array(z.string()),
          publicAddress: z.boolean(),
          tags: z.array(z.string()),
          ranges: z.array(hopRange),
          destinations: z.array(
            z.object({
              owner: z.string(),
              said: z.string(),
              family: z.union([z.literal(4), z.literal(6)]),
              ranges: z.array(z.string()),
              places: z.array(z.int()),
            }),
          ),
        }),
      ),
    })
    .meta({
      id: 'NextHops',
      description:
        'The effective next hops of a subnet: the whole address space by way out, and by whose space the destinations are',
    }),
)
const packetBox = z.object({
  src: z.string(),
  dst: z.string(),
  protocols: z.array(z.union([z.string(), z.int()])).nullable(),
  srcPorts: z.string().nullable(),
  dstPorts: z.string().nullable(),
})

export const waysInAnswer = ofCore<WaysIn>(
  z
    .object({
      subnet: z.string(),
      ways: z.array(
        z.object({
          from: z.string(),
          to: z.string(),
          ways: z.array(z.array(z.string())),
          packets: z.array(packetBox),
          packet,
          rules: z.array(z.string()),
        }),
      ),
      jumps: z.array(
        z.object({ host: z.string(), from: z.array(z.string()), opens: z.array(z.string()) }),
      ),
      ruleSets: z.array(z.string()),
      idle: z.array(z.object({ set: z.string(), rule: z.string(), why: z.string() })),
      leftOut: z.array(z.object({ from: z.string(), to: z.string() })).meta({
        description: 'What has too many kinds of packets to be looked through',
      }),
    })
    .meta({
      id: 'WaysIn',
      description: 'Who can reach the hosts of a subnet, on what, through what',
    }),
)
