import { z } from 'zod'

/** A text that a request brings. The character U+0000 is in none: the database does not take it. */
export const text = z.string().refine((one) => !one.includes('\u0000'), {
  error: 'holds the character U+0000, which no text may hold',
})

/** What somebody may do with an estate; each may do what those before it may. */
export const ROLES = ['reader', 'editor', 'owner'] as const
export const role = z.enum(ROLES)
export type Role = z.output<typeof role>

/** Pieces that several answers and queries have. */
export const packet = z.object({
  src: z.string(),
  dst: z.string(),
  protocol: z.union([z.string(), z.int()]),
  srcPort: z.int().nullable(),
  dstPort: z.int().nullable(),
})

export const change = z.object({
  op: z.enum(['add', 'replace', 'remove', 'test']),
  path: z.string(),
  value: z.unknown().optional(),
})
/** What is proposed: a clause, its changes, and what an engineer has to choose. */
export const mend = {
  what: z.string(),
  changes: z.array(change),
  blanks: z
    .array(z.object({ path: z.string(), wants: z.string(), standIn: z.string() }))
    .optional(),
}
export const from = z.coerce
  .number()
  .int()
  .min(0)
  .max(10_000_000)
  .default(0)
  .meta({ description: 'The first one wanted, counted from 0' })
export const countUpTo = (most: number) => z.coerce.number().int().min(1).max(most).default(most)
export const cause = z.object({ code: z.string(), object: z.string() })

/**
 * A schema of something the core makes, typed as the core types it: its texts are of fewer kinds
 * than the schema says. The tests parse every answer with its schema.
 */
export const ofCore = <T>(schema: z.ZodType): z.ZodType<T> => schema as z.ZodType<T>
