import { z } from 'zod'
import { role, text } from './parts'

/**
 * What a file holds is read by the reader of the format, which says where in it a character may not
 * stand.
 */
const file = z
  .object({ name: text.min(1).max(255), text: z.string() })
  .meta({ id: 'File', description: 'One file of an estate' })
const files = z.array(file).min(1).max(1000)
export const note = text.max(2000).optional()

export const checkBody = z.object({ files }).meta({ id: 'CheckBody' })
export const newEstateBody = z.object({ files, note }).meta({ id: 'NewEstateBody' })
export const renameBody = z.object({ name: text.trim().min(1).max(200) }).meta({ id: 'Rename' })
export const deleteEstateBody = z
  .object({ name: text.min(1).max(200).meta({ description: 'The name of the estate, typed' }) })
  .meta({ id: 'DeleteEstate' })
export const newRevisionBody = z
  .object({
    files,
    note,
    base: z.int().min(1).meta({
      description: 'The revision this one was made from; refused if it is no longer the newest',
    }),
  })
  .meta({ id: 'NewRevisionBody' })

export const proveBody = z
  .object({
    text: z.string().min(1).max(100_000).meta({
      description:
        'Expectations in the format, YAML or JSON: a document with a section "expectations"',
    }),
  })
  .meta({ id: 'ProveBody' })
export const acceptanceBody = z
  .object({
    reason: text.trim().min(1).max(2000),
    until: z.iso.date().nullable().default(null).meta({
      description: 'The last day on which it holds; null for as long as nobody takes it back',
    }),
  })
  .meta({ id: 'AcceptanceBody' })
export const acceptanceAnswer = z
  .object({ ...acceptanceBody.shape, author: z.string() })
  .meta({ id: 'Acceptance', description: 'Why a finding is lived with, and who says so' })

export const questionBody = z
  .object({
    from: text.min(1).max(300),
    to: text.min(1).max(300),
    protocol: z.union([text.max(20), z.int().min(0).max(255)]).optional(),
    port: z.int().min(0).max(65535).nullish(),
    sourcePort: z.int().min(0).max(65535).nullish(),
    family: z
      .union([z.literal(4), z.literal(6)])
      .optional()
      .meta({ description: 'By which family; without it IPv4 where both ends have both' }),
    continue: z.boolean().optional(),
  })
  .meta({ id: 'Question', description: 'A question, its ends written as in the command line' })

const port = z.int().min(0).max(65535)
export const casesBody = z
  .object({
    from: text.min(1).max(300),
    to: text.min(1).max(300),
    protocol: z.union([text.max(20), z.int().min(0).max(255)]).optional(),
    ports: z
      .object({ from: port, to: port })
      .refine(({ from, to }) => from <= to, { error: 'ports go from a lower one to a higher one' })
      .nullish()
      .meta({ description: 'Destination ports, the first and the last' }),
    sourcePort: port.nullish(),
  })
  .meta({ id: 'CasesBody', description: 'A question for every family, and for many ports' })

/** A question, and whether its packet is to be stopped rather than helped on. */
export const questionsBody = z.array(questionBody).min(1).max(10_000).meta({ id: 'Questions' })

export const estateParams = z.object({ estate: z.string().regex(/^[a-z0-9-]{1,80}$/) })
export const acceptanceParams = estateParams.extend({
  fingerprint: z.string().regex(/^[0-9a-f]{16}$/),
})
export const revisionParams = estateParams.extend({
  revision: z
    .union([
      z.literal('head'),
      z.string().regex(/^[1-9]\d{0,8}$/),
      z.string().regex(/^draft-[1-9]\d{0,8}(\.\d{1,9})?$/),
    ])
    .meta({
      description:
        'A revision’s number, head for the newest, or draft-ID for what a draft makes of its base; draft-ID.VERSION names the same state for good',
    }),
})

export const notationQuery = z.object({ notation: z.enum(['yaml', 'json']).default('yaml') })
export const exampleParams = z.object({ example: z.string().regex(/^[a-z0-9-]{1,80}$/) })

const problem = z
  .object({
    code: z.string(),
    message: z.string(),
    file: z.string(),
    line: z.int(),
    column: z.int(),
    object: z.string().nullable(),
    suggestion: z.string().optional(),
    more: z.int().optional().meta({ description: 'How many problems this entry stands for' }),
  })
  .meta({ id: 'Problem', description: 'Something wrong with a file, and where' })
export const problemsAnswer = z
  .object({ errors: z.array(problem), warnings: z.array(problem) })
  .meta({ id: 'Problems' })

export const revisionInfo = z
  .object({
    number: z.int(),
    createdAt: z.iso.datetime(),
    author: z.string(),
    origin: z.string(),
    note: z.string(),
    reason: z.string().nullable().meta({
      description: 'Why it was saved although it breaks an expectation that held',
    }),
  })
  .meta({ id: 'RevisionInfo' })
export const estateInfo = z
  .object({ slug: z.string(), name: z.string(), head: revisionInfo, role })
  .meta({ id: 'EstateInfo' })
export const savedAnswer = z
  .object({ slug: z.string(), number: z.int(), warnings: z.array(problem) })
  .meta({ id: 'Saved' })
export const objectChange = z.object({
  object: z.string(),
  kind: z.enum(['added', 'removed', 'changed']),
  keys: z.array(z.string()),
})
export const changesAnswer = problemsAnswer
  .extend({
    base: z.int(),
    changes: z.array(objectChange).nullable(),
  })
  .meta({
    id: 'Changes',
    description:
      'What files would change against the newest revision; changes is null where they cannot be read',
  })
