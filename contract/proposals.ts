import type { ToldProposal } from '@salt-trail/core'
import { z } from 'zod'
import { toldPackets } from './consequences'
import { mend, ofCore, text } from './parts'
import { questionBody } from './requests'
import { traceAnswer } from './traces'

export const proposalsBody = z
  .union([
    z.strictObject({ finding: text.min(1).max(64).meta({ description: 'A fingerprint' }) }),
    questionBody,
  ])
  .meta({ id: 'Wanted', description: 'What proposals are wanted for: a finding or a question' })

const told = ofCore<ToldProposal>(
  z.object({
    ...mend,
    blanks: z.array(z.object({ path: z.string(), wants: z.string(), standIn: z.string() })),
    harmless: z.boolean(),
    costs: z.array(z.string()),
    shown: traceAnswer.nullable(),
    packets: toldPackets,
    findings: z.object({ went: z.array(z.string()), came: z.array(z.string()) }),
  }),
)

export const proposalsAnswer = z
  .object({ proposals: z.array(told), milliseconds: z.number() })
  .meta({
    id: 'Proposals',
    description:
      'Changes after RFC 6902 that mend it, best first, each tried against the whole estate',
  })
