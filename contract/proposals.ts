import type { ProposalJson, ToldProposal } from '@salt-trail/core'
import { z } from 'zod'
import { consequencesAnswer, toldPackets } from './consequences'
import { change, mend, ofCore, text } from './parts'
import { questionBody } from './requests'
import { traceAnswer } from './traces'

export const proposalsBody = z
  .union([
    z.strictObject({ finding: text.min(1).max(64).meta({ description: 'A fingerprint' }) }),
    z.strictObject({ rootCause: text.min(1).max(64).meta({ description: 'A fingerprint' }) }),
    questionBody,
  ])
  .meta({
    id: 'Wanted',
    description: 'What proposals are wanted for: a finding, a root cause or a question',
  })

const blanks = z.array(z.object({ path: z.string(), wants: z.string(), standIn: z.string() }))

const told = ofCore<ToldProposal>(
  z.object({
    ...mend,
    blanks,
    harmless: z.boolean(),
    mends: z.int().nullable(),
    costs: z.array(z.string()),
    shown: traceAnswer.nullable(),
    packets: toldPackets,
    findings: z.object({ went: z.array(z.string()), came: z.array(z.string()) }),
  }),
)

/** A proposal as the command line prints it, with everything it brings about. */
export const proposalJson = ofCore<ProposalJson>(
  z.strictObject({
    what: z.string(),
    changes: z.array(change),
    reaches: z.literal(true),
    harmless: z.boolean(),
    costs: z.array(z.string()),
    blanks,
    consequences: consequencesAnswer,
  }),
)

export const proposalsAnswer = z
  .object({
    proposals: z.array(told),
    milliseconds: z.number(),
    isCut: z.boolean().meta({
      description: 'Whether time was over before all changes were tried',
    }),
  })
  .meta({
    id: 'Proposals',
    description:
      'Changes after RFC 6902 that mend it, best first, each tried against the whole estate',
  })
