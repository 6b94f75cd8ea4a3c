import type { Cases, Trace } from '@salt-trail/core'
import { z } from 'zod'
import { ofCore, cause, packet } from './parts'
import { questionBody } from './requests'

const station = z.object({
  at: z.string(),
  kind: z.string(),
  decision: z.string(),
  packet,
  evidence: z.record(z.string(), z.unknown()),
  assumed: z.literal(true).optional(),
})

const lane = z.object({ outcome: z.string(), stations: z.array(station) })
/** A fault with its place on the way: the number of the station, from 0, of a direction. */
const fault = cause.extend({
  direction: z.enum(['forward', 'return']),
  station: z.int(),
  inner: cause.optional(),
})
const branch = z.object({
  verdict: z.enum(['works', 'one-way', 'blocked', 'blackholed', 'looped']),
  cause: fault.nullable(),
  seenAs: z.array(z.string()),
  way: z.array(z.string()),
  leavesBy: z.string().nullable(),
  forward: lane,
  return: lane.nullable(),
  assumed: z.array(z.object({ direction: z.string(), station: z.int(), what: z.string() })),
  faults: z.array(fault),
})

export const traceAnswer = ofCore<Trace>(
  branch
    .extend({
      question: questionBody,
      branches: z.array(branch),
      truncated: z.boolean(),
      name: z
        .object({
          asked: z.string(),
          answeredBy: z.string().nullable(),
          addresses: z.array(z.string()),
          nameServers: z.array(z.object({ address: z.string(), reachable: z.boolean() })),
        })
        .optional(),
    })
    .meta({
      id: 'Trace',
      description: 'The answer to a question: both directions, station by station',
    }),
)

const span = z.object({ from: z.int(), to: z.int() })
export const casesAnswer = ofCore<Cases>(
  z
    .object({
      cases: z.array(
        branch
          .pick({ verdict: true, cause: true, seenAs: true, way: true, leavesBy: true })
          .extend({
            question: questionBody,
            family: z.union([z.literal(4), z.literal(6)]),
            ports: span.nullable(),
            wayBack: z.array(z.string()).nullable(),
          }),
      ),
      more: span.nullable().meta({ description: 'Ports that were not looked at' }),
    })
    .meta({
      id: 'Cases',
      description:
        'How a question fares by each family that both ends have, and by each span of ports that fares alike',
    }),
)
