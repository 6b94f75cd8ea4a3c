import type { Opening, Talk } from '@salt-trail/core'
import { z } from 'zod'
import { countUpTo, from, ofCore, packet, text } from './parts'

export const exposureQuery = z.object({
  sort: z.enum(['port', 'subnet', 'address']).default('port'),
  text: text
    .max(200)
    .default('')
    .meta({ description: 'A port they have, or a part of a name, an address, a way' }),
  port: z.coerce.number().int().min(0).max(65535).optional().meta({
    description: 'Meant where nothing has the text: the port of a service whose name it is',
  }),
  from,
  count: countUpTo(500),
})

const protocols = z.array(z.union([z.string(), z.int()])).nullable()
const opening = ofCore<Opening & { readonly group: string; readonly on: string }>(
  z.object({
    from: z.string(),
    to: z.string(),
    subnet: z.string(),
    network: z.string(),
    address: z.string(),
    protocols,
    ports: z.object({ from: z.int(), to: z.int() }).nullable(),
    kind: z.enum(['administration', 'database', 'other']),
    openTo: z.object({ ranges: z.array(z.string()), moreRanges: z.int(), share: z.number() }),
    ways: z.array(z.array(z.string())),
    answered: z.enum(['all', 'some', 'none']),
    packet,
    group: z.string().meta({ description: 'The heading it stands under in this order' }),
    on: z.string().meta({ description: 'Protocols and ports in words' }),
  }),
)

const looked = {
  looked: z.int().meta({ description: 'Hosts looked at; what is told is whole once it is all' }),
  hosts: z.int(),
  cut: z.int().meta({ description: 'Hosts with too many kinds of packets to look at them all' }),
}
export const exposureAnswer = z
  .object({
    revision: z.int(),
    ...looked,
    isDone: z.boolean().meta({ description: 'False while asking again tells more' }),
    total: z.int(),
    openings: z.array(opening),
  })
  .meta({
    id: 'Exposure',
    description:
      'What is reached from outside the estate, as far as it is known; ask again for more',
  })

export const behindQuery = z.object({ host: text.min(1).max(128) })
export const behindAnswer = z
  .object({ host: z.string(), opens: z.array(z.string()), ...looked, isDone: z.boolean() })
  .meta({ id: 'Behind', description: 'The hosts that one host reaches in turn' })

export const talksQuery = z.object({ from: text.min(1).max(128) })
const talk = ofCore<Talk>(
  z.object({
    from: z.string(),
    to: z.string(),
    open: z.array(z.string()),
    unanswered: z.array(z.string()),
    hosts: z.object({ from: z.int(), to: z.int() }),
    shown: z
      .object({ packet, way: z.array(z.string()), wayBack: z.array(z.string()).nullable() })
      .nullable(),
    isCut: z.boolean(),
  }),
)
export const talksAnswer = z
  .object({
    from: z.string(),
    talks: z.array(talk),
    networks: z
      .int()
      .meta({ description: 'How many others there are; ask again until all are told' }),
  })
  .meta({ id: 'Talks', description: 'What hosts of a network can send to those of each other one' })
