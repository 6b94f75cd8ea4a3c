import type { ConsequencesJson, ToldPackets } from '@salt-trail/core'
import { SEVERITIES } from '@salt-trail/core'
import { z } from 'zod'
import { finding } from './findings'
import { cause, ofCore, packet } from './parts'
import { objectChange } from './requests'
import { waysInAnswer } from './subnets'

const state = z.enum(['holds', 'broken', 'empty'])
const passed = z.object({ there: z.array(z.string()), back: z.array(z.string()) })
const wayText = z.object({
  way: z.array(z.string()),
  otherWays: z.array(z.array(z.string())),
  leavesBy: z.string().nullable(),
  seenAs: z.array(z.string()),
  cause: cause.nullable(),
})

/** The ways of a subnet that differ between two states. */
export const wayChange = {
  subnet: z.string(),
  hosts: z.array(z.string()),
  ranges: z.array(z.string()),
  destinations: z.array(z.string()),
  before: wayText.nullable(),
  after: wayText.nullable(),
}

export const packetRow = z.object({
  from: z.array(z.string()),
  src: z.array(z.string()),
  to: z.array(z.string()),
  dst: z.array(z.string()),
  protocol: z.union([z.string(), z.int()]),
  ports: z.array(z.string()).optional(),
  sourcePorts: z.array(z.string()).optional(),
  packet,
  before: z.union([passed, z.array(z.string())]).optional(),
  after: z.union([passed, z.array(z.string())]).optional(),
  partly: z.literal(true).optional(),
  failed: z.literal(true).optional(),
  likeAnswers: z.literal(true).optional(),
})

/** Packets that differ as they are read: rows in words, by kind, the first of many. */
export const toldPackets = ofCore<ToldPackets>(
  z.object({
    rows: z.array(
      z.object({
        kind: z.enum(['opened', 'cut', 'passedBy', 'inspected', 'elsewhere']),
        from: z.string(),
        to: z.string(),
        on: z.string(),
        note: z.string(),
        failed: z.boolean(),
        partly: z.boolean(),
        question: z.object({
          from: z.string(),
          to: z.string(),
          protocol: z.union([z.string(), z.int()]),
          port: z.int().nullable(),
          sourcePort: z.int().nullable(),
        }),
      }),
    ),
    counts: z.record(z.string(), z.int()),
    leftOut: z.array(z.string()),
  }),
)

/** Everything a change brings about: what `diff --json` and `what-if --json` print. */
export const consequencesAnswer = ofCore<ConsequencesJson>(
  z
    .strictObject({
      objects: z.array(objectChange),
      ways: z.array(z.object(wayChange)),
      opened: z.array(packetRow),
      cut: z.array(packetRow),
      passedBy: z.array(packetRow),
      inspected: z.array(packetRow),
      elsewhere: z.array(packetRow),
      waysIn: z.array(
        z.object({
          subnet: z.string(),
          before: waysInAnswer.nullable(),
          after: waysInAnswer.nullable(),
        }),
      ),
      findings: z.object({
        came: z.array(finding),
        went: z.array(
          z.object({
            fingerprint: z.string(),
            code: z.string(),
            anchor: z.string(),
            severity: z.enum(SEVERITIES),
          }),
        ),
        changed: z.array(z.object({ before: finding, after: finding })),
      }),
      expectations: z.array(
        z.object({ id: z.string(), before: state.nullable(), after: state.nullable() }),
      ),
      seenAs: z.array(
        z.object({
          party: z.string(),
          subnet: z.string(),
          before: z.array(z.string()),
          after: z.array(z.string()),
          allowed: z.boolean().nullable(),
        }),
      ),
      money: z
        .object({ currency: z.string().nullable(), before: z.number(), after: z.number() })
        .nullable(),
      complete: z.boolean(),
      leftOut: z.array(z.string()),
    })
    .meta({ id: 'Consequences', description: 'Everything a change brings about' }),
)
