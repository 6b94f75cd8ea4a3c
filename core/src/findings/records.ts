import { FINDING_CODES, type Family, type FindingCode } from './finding'
import { HOLES } from './holes/holes'
import { LEAKS } from './leaks/leaks'
import type { FindingRecord } from './record'
import type { Check } from './survey'
import { WEAK_SPOTS } from './weak-spots/weak-spots'

/** Every code with its record. A code of `FINDING_CODES` without a record is a type error. */
export const FINDINGS: { readonly [C in FindingCode]: FindingRecord } = {
  ...LEAKS,
  ...HOLES,
  ...WEAK_SPOTS,
}

/** The family of a code. */
export const familyOfCode = (code: FindingCode): Family => FINDINGS[code].family

/** What a code means, for a reader who meets it for the first time. */
export const aboutFinding = (code: FindingCode): string => FINDINGS[code].about

/** Every check once, in the order of the codes it finds. */
const checks = [...new Set(FINDING_CODES.flatMap((code) => FINDINGS[code].foundBy))]

/** Every check, by the step of an analysis in which it is made. */
export const CHECKS: readonly (readonly [step: string, checks: readonly Check[]])[] = [
  ...new Set(checks.map(({ step }) => step)),
].map((step) => [step, checks.filter((check) => check.step === step)])
