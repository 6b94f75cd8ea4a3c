import type { ObjectPage } from '@salt-trail/core'
import { MAP_SECTIONS } from '@salt-trail/core'
import { z } from 'zod'
import { ofCore, text } from './parts'
import { objectChange } from './requests'

export const objectQuery = z.object({
  ref: text.min(3).max(300).meta({
    description: 'section/id, or a section that is edited as one, such as prices',
  }),
})
export const objectAnswer = ofCore<ObjectPage>(
  z.object({
    ref: z.string(),
    title: z.string().nullable(),
    value: z.unknown(),
    text: z.string(),
    zone: z.string().nullable(),
    refersTo: z.array(z.string()),
    referredBy: z.array(z.string()),
    serves: z.array(z.string()),
    canFail: z.boolean(),
    targets: z.array(z.object({ via: z.unknown(), says: z.string() })),
  }),
)

export const objectHistoryAnswer = z
  .object({
    revisions: z.int().meta({ description: 'How many of the newest revisions were read' }),
    changes: z.array(objectChange.extend({ number: z.int() })),
  })
  .meta({ id: 'ObjectHistory', description: 'The revisions that changed an object, newest first' })

export const objectsQuery = z.object({
  text: text.max(128).default('').meta({ description: 'Ids that hold it' }),
  most: z.coerce.number().int().min(1).max(5_000).default(2_000),
})
export const objectsAnswer = z
  .object({
    sections: z.array(
      z.object({ section: z.enum(MAP_SECTIONS), ids: z.array(z.string()), more: z.int() }),
    ),
    zones: z.array(z.object({ region: z.string(), zone: z.string() })),
  })
  .meta({ id: 'Objects', description: 'The ids of every section' })

export const searchQuery = z.object({
  text: text
    .min(1)
    .max(200)
    .meta({ description: 'An address, or part of an id, title or address' }),
  most: z.coerce.number().int().min(1).max(100).default(8),
})
export const searchAnswer = z
  .object({ objects: z.array(z.object({ ref: z.string(), says: z.string() })) })
  .meta({ id: 'SearchFound', description: 'Objects that a text finds, and what they are' })
