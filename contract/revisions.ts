import type { WayChange } from '@salt-trail/core'
import { z } from 'zod'
import { revisionInfo, objectChange } from './requests'
import { toldPackets, wayChange } from './consequences'
import { ofCore } from './parts'

const historyRow = revisionInfo.extend({
  counts: z
    .object({
      rootCauses: z.int(),
      leak: z.int(),
      hole: z.int(),
      weak: z.int(),
      broken: z.int(),
    })
    .nullable(),
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
export const differenceAnswer = z
  .object({
    revision: z.int(),
    since: z.int(),
    objects: z.array(objectChange),
    packets: toldPackets,
    wayCount: z.int(),
    subnetCount: z.int(),
    ways: z.array(
      ofCore<WayChange & { readonly moreRanges: number }>(
        z.object({ ...wayChange, moreRanges: z.int() }),
      ),
    ),
  })
  .meta({
    id: 'Difference',
    description: 'What differs between two revisions, as objects, as packets and as ways',
  })
