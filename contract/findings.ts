import { SEVERITIES, type ToldFinding } from '@salt-trail/core'
import { z } from 'zod'
import { ofCore, countUpTo, from, packet, text } from './parts'
import { acceptanceBody } from './requests'

/** What findings can be grouped by. */
export const FINDINGS_GROUPINGS = ['severity', 'family', 'network'] as const

const found = {
  code: z.string(),
  severity: z.enum(SEVERITIES),
  anchor: z.string(),
  objects: z.array(z.string()),
  sentence: z.string(),
  fingerprint: z.string(),
  evidence: z.object({
    ranges: z.array(z.string()),
    packet: packet.nullable(),
    question: z.record(z.string(), z.unknown()).nullable(),
    facts: z.array(z.string()),
  }),
}
export const finding = ofCore<ToldFinding>(z.object(found))
const listedFinding = ofCore<
  ToldFinding & {
    readonly network: string | null
    readonly accepted: z.output<typeof acceptanceBody> | null
  }
>(
  z.object({
    ...found,
    network: z.string().nullable().meta({ description: 'The network it lies in' }),
    accepted: acceptanceBody.nullable(),
  }),
)

export const findingsQuery = z
  .object({
    from,
    count: countUpTo(500),
    family: z.enum(['leak', 'hole', 'weak']).optional(),
    severity: z.enum(SEVERITIES).optional().meta({ description: 'At least this severe' }),
    text: text.max(200).optional().meta({ description: 'In the code, the anchor or the sentence' }),
    fingerprint: text
      .max(64)
      .optional()
      .meta({ description: 'The one finding of this fingerprint' }),
    object: text.max(300).optional().meta({ description: 'Those that name it, as section/id' }),
    network: text.max(128).optional().meta({ description: 'Those that lie in this network' }),
    by: z
      .enum(FINDINGS_GROUPINGS)
      .default('severity')
      .meta({ description: 'What they are grouped by; in a group the most severe come first' }),
  })
  .meta({ id: 'FindingsQuery' })

export const findingsSinceAnswer = z
  .object({
    revision: z.int(),
    since: z.int(),
    come: z.array(finding),
    gone: z.array(finding),
  })
  .meta({ id: 'FindingsSince' })

export const findingsAnswer = z
  .object({
    revision: z.int(),
    milliseconds: z.number(),
    total: z.int(),
    groups: z.array(z.object({ key: z.string().nullable(), total: z.int() })),
    findings: z.array(listedFinding),
  })
  .meta({
    id: 'Findings',
    description: 'Everything that is wrong with a revision, and what became of its expectations',
  })
