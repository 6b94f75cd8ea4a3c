import { apply, complete, type Change } from '../changes/index'
import { isValid } from '../format/check'
import type { Finding } from '../findings/finding'
import type { Model } from '../model/model'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'

/**
 * Takes out what is idle, by what the findings of idle objects propose. What something else still
 * refers to is taken out after that; what would leave an invalid estate stays, and is named. Costs
 * a check of the estate for each object, in as many rounds as references are deep; once `stop` says
 * true, what was not tried stays, and is counted.
 */
export function cleanUp(
  model: Model,
  findings: readonly Finding[],
  stop: () => boolean = () => false,
): Moved | NotMoved {
  let left = findings.filter(({ code, mend }) => code.startsWith('idle-') && mend !== null)
  if (left.length === 0) return notMoved('nothing is idle in this estate')
  let { estate } = model
  const change: Change[number][] = []
  const done: string[] = []
  const untried: Finding[] = []
  for (let round = left.length; round > 0 && left.length > 0; round--) {
    const stays: Finding[] = []
    for (const finding of left) {
      if (stop()) {
        untried.push(finding)
        continue
      }
      const own = complete(estate, finding.mend!.changes as Change)
      const made = apply(estate, own)
      if (!made.ok || !isValid(made.estate, estate)) {
        stays.push(finding)
        continue
      }
      change.push(...own)
      done.push(finding.anchor)
      estate = made.estate
    }
    const same = stays.length === left.length
    left = stays
    if (same || untried.length > 0) break
  }
  if (change.length === 0) return notMoved('nothing that is idle can be taken out by itself')
  const stay = left.filter((one) => !untried.includes(one)).map(({ anchor }) => anchor)
  const notes = [
    ...(stay.length > 0 ? [`${listed(stay)}: left, since something still refers to it`] : []),
    ...(untried.length > 0 ? [`${untried.length} more are idle: take this move again`] : []),
  ]
  return moved(`take out what is idle: ${listed(done)}`, change, notes)
}
