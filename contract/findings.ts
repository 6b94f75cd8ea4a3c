import { ROOT_KINDS, SEVERITIES, type ToldFinding, type ToldRootCause } from '@salt-trail/core'
import { z } from 'zod'
import { ofCore, countUpTo, from, packet, text } from './parts'
import { acceptanceAnswer } from './requests'

/** What findings can be grouped by. */
export const FINDINGS_GROUPINGS = ['severity', 'family', 'network'] as const

const root = {
  kind: z.enum(ROOT_KINDS),
  object: z.string().meta({ description: 'As section/id; `estate` for the estate as a whole' }),
  part: z.string(),
}
const found = {
  code: z.string(),
  severity: z.enum(SEVERITIES),
  anchor: z.string(),
  objects: z.array(z.string()),
  sentence: z.string(),
  fingerprint: z.string(),
  root: z.object(root).meta({ description: 'What decides it' }),
  evidence: z.object({
    ranges: z.array(z.string()),
    packet: packet.nullable(),
    question: z.record(z.string(), z.unknown()).nullable(),
    facts: z.array(z.string()),
  }),
}
export const finding = ofCore<ToldFinding>(z.object(found))
/** What was said of a finding, or of its root cause as a whole. */
const accepted = acceptanceAnswer.extend({
  fingerprint: z.string().meta({ description: 'Of the finding, or of its root cause' }),
})
const listedFinding = ofCore<
  ToldFinding & {
    readonly network: string | null
    readonly rootCause: string
    readonly accepted: z.output<typeof accepted> | null
  }
>(
  z.object({
    ...found,
    network: z.string().nullable().meta({ description: 'The network it lies in' }),
    rootCause: z.string().meta({ description: 'The fingerprint of its root cause' }),
    accepted: accepted.nullable(),
  }),
)

/** Which findings are meant. */
const findingsMeant = {
  family: z.enum(['leak', 'hole', 'weak']).optional(),
  severity: z.enum(SEVERITIES).optional().meta({ description: 'At least this severe' }),
  text: text.max(200).optional().meta({ description: 'In the code, the anchor or the sentence' }),
  about: z
    .enum(['left-behind'])
    .optional()
    .meta({ description: 'left-behind: routes to what is gone, and what nothing uses' }),
  fingerprint: text.max(64).optional().meta({ description: 'The one finding of this fingerprint' }),
  object: text.max(300).optional().meta({ description: 'Those that name it, as section/id' }),
  network: text.max(128).optional().meta({ description: 'Those that lie in this network' }),
}

export const findingsQuery = z
  .object({
    from,
    count: countUpTo(500),
    ...findingsMeant,
    rootCause: text.max(64).optional().meta({ description: 'Those of this root cause' }),
    by: z
      .enum(FINDINGS_GROUPINGS)
      .default('severity')
      .meta({ description: 'What they are grouped by; in a group the most severe come first' }),
  })
  .meta({ id: 'FindingsQuery' })

export const rootCausesQuery = z
  .object({ from, count: countUpTo(500), ...findingsMeant })
  .meta({ id: 'RootCausesQuery', description: 'The root causes of findings that match' })

const listedRootCause = ofCore<
  ToldRootCause & {
    readonly matching: number
    readonly accepted: z.output<typeof accepted> | null
  }
>(
  z.object({
    fingerprint: z.string(),
    severity: z.enum(SEVERITIES),
    code: z.string(),
    sentence: z.string(),
    roots: z.array(z.object({ ...root, findings: z.int() })),
    moreRoots: z.int(),
    codes: z.array(z.object({ code: z.string(), findings: z.int() })),
    findings: z.int(),
    subnets: z.int(),
    hosts: z.int(),
    concerns: z.array(z.string()),
    unlike: z.array(z.string()).meta({
      description: 'What tells the objects that decide from the many they are otherwise like',
    }),
    matching: z.int().meta({ description: 'How many of its findings match' }),
    accepted: accepted.nullable(),
  }),
)

export const rootCausesAnswer = z
  .object({
    revision: z.int(),
    total: z.int(),
    findings: z.int(),
    rootCauses: z.array(listedRootCause),
  })
  .meta({
    id: 'RootCauses',
    description: 'What has to change for findings to go, the gravest first',
  })

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
