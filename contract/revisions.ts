import type { WayChange } from '@salt-trail/core'
import { z } from 'zod'
import { revisionInfo, objectChange } from './requests'
import { ofCore, cause } from './parts'

const historyRow = revisionInfo.extend({
  counts: z.object({ leak: z.int(), hole: z.int(), weak: z.int(), broken: z.int() }).nullable(),
})
export const historyAnswer = z.array(historyRow).meta({
  id: 'History',
  description: 'The revisions with how much is wrong with each; null where it is not analysed',
})
export const sinceQuery = z
  .object({
    since: z.coerce
      .number()
      .int()
      .min(1)
      .max(999999999)
      .meta({ description: 'The number of the other revision' }),
  })
  .meta({ id: 'SinceQuery' })
const wayText = z.object({
  way: z.array(z.string()),
  leavesBy: z.string().nullable(),
  seenAs: z.array(z.string()),
  cause: cause.nullable(),
})
export const differenceAnswer = z
  .object({
    revision: z.int(),
    since: z.int(),
    objects: z.array(objectChange),
    wayCount: z.int(),
    subnetCount: z.int(),
    ways: z.array(
      ofCore<WayChange & { readonly moreRanges: number }>(
        z.object({
          subnet: z.string(),
          host: z.string(),
          ranges: z.array(z.string()),
          moreRanges: z.int(),
          before: wayText.nullable(),
          after: wayText.nullable(),
        }),
      ),
    ),
  })
  .meta({
    id: 'Difference',
    description: 'What differs between two revisions, as objects and as ways',
  })
