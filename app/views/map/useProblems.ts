import { familyOfCode, type FindingFamily } from '@salt-trail/core'
import { useAnswer } from '~/api/useAnswer'
import { GRAVITY } from '~/views/exits/cells'

/** The gravest findings are asked for; more marks than these would say no more. */
const MOST_FINDINGS = 200

/**
 * What is wrong at each object, the gravest family of findings: of subnets by the rows of Exits, of
 * the rest by the object that stands for a finding.
 */
export function useProblems() {
  const estate = useEstate()
  const { answer } = useAnswer<'findings'>(() =>
    estate.fixedBase === null || !estate.isDone
      ? null
      : { base: estate.fixedBase, path: 'findings', query: { count: MOST_FINDINGS } },
  )
  return computed((): ReadonlyMap<string, FindingFamily> => {
    const families = new Map<string, FindingFamily>()
    const note = (ref: string, family: FindingFamily): void => {
      const known = families.get(ref)
      if (known === undefined || GRAVITY.indexOf(family) < GRAVITY.indexOf(known))
        families.set(ref, family)
    }
    for (const { anchor, code, accepted } of answer.value?.findings ?? [])
      if (accepted === null) note(anchor, familyOfCode(code))
    for (const { subnet, findings } of estate.exits ?? [])
      for (const found of Object.values(findings))
        for (const { family } of found ?? []) note(`subnets/${subnet}`, family)
    return families
  })
}
