import type { Moved, NotMoved, WayOut } from '@salt-trail/core'
import { z } from 'zod'
import { change, ofCore, text } from './parts'

const id = text.min(1).max(128)
const ids = z.array(id).max(20_000)
const role = z.enum(['public', 'private', 'isolated', 'inspection', 'transit'])
const nat = { move: z.literal('fixed-source'), nat: id }

/** A ready-made move, by its kind. */
export const moveBody = z
  .union([
    z.strictObject({
      move: z.literal('way-out'),
      subnets: ids,
      by: z.enum(['one', 'zone', 'subnet']),
      addresses: ids.optional(),
    }),
    z.strictObject({ move: z.literal('endpoints'), subnets: ids, services: ids }),
    z.strictObject({
      move: z.literal('wall'),
      subnets: ids,
      firewall: id,
      traffic: z.enum(['internet', 'networks', 'both']),
    }),
    z.strictObject({
      move: z.literal('join'),
      hub: id.nullable(),
      members: ids,
      where: text.max(300).optional(),
      apart: text.max(200).optional(),
      tellWalls: z.boolean().optional(),
    }),
    z.strictObject({
      move: z.literal('associate'),
      subnets: ids,
      table: id,
      copyOf: id.optional(),
    }),
    z.strictObject({
      move: z.literal('carve'),
      network: id,
      range: text.max(60),
      length: z.int().min(0).max(128),
      roles: z.array(role).max(5),
      zones: z.array(id).max(20),
    }),
    z.strictObject({ ...nat, act: z.literal('fix'), party: id, address: id.optional() }),
    z.strictObject({ ...nat, act: z.literal('drain'), address: id }),
    z.strictObject({ ...nat, act: z.literal('swap'), address: id, by: id.optional() }),
    z.strictObject({ move: z.literal('clean-up') }),
    z.strictObject({
      move: z.literal('fail'),
      failing: z.array(text.min(1).max(300)).min(1).max(100),
    }),
  ])
  .meta({ id: 'Move', description: 'A ready-made move' })

const made = {
  ok: z.literal(true),
  what: z.string(),
  change: z.array(change),
  notes: z.array(z.string()),
}
const outcome = z.union([z.object(made), z.object({ ok: z.literal(false), message: z.string() })])
export const moveAnswer = ofCore<Moved | NotMoved>(
  outcome.meta({ id: 'Moved', description: 'The change of a move, or why it cannot be made' }),
)

export const waysOutQuery = z.object({
  subnets: text.max(20_000).meta({ description: 'Ids with commas between' }),
  addresses: text.max(2_000).default('').meta({ description: 'Public addresses to take' }),
})
export const waysOutAnswer = ofCore<{ readonly ways: readonly WayOut[] }>(
  z.object({
    ways: z.array(
      z.object({
        by: z.enum(['one', 'zone', 'subnet']),
        made: outcome,
        nats: z.int(),
        perHour: z.number().nullable(),
        onLoss: z.array(z.object({ zone: z.string(), subnets: z.array(z.string()) })),
      }),
    ),
  }),
)
