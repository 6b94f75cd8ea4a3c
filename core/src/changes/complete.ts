import type { Estate } from '../format/estate'
import { isListSection, isMapSection, isSingleSection } from '../format/schema/document'
import { documentOf } from './document'
import type { Change, Operation } from './operation'
import { pointerParts } from './pointer'

/**
 * A change as it can be made anywhere (RFC 6902): a section that the estate's document lacks is
 * added before the first operation inside it. A section that is there already is left alone.
 */
export function complete(estate: Estate, change: Change): Change {
  const present = new Set(documentOf(estate).keys())
  return change.flatMap((operation): Operation[] => {
    const [section, ...inside] = pointerParts(operation.path) ?? []
    if (section === undefined || present.has(section)) return [operation]
    present.add(section)
    const known = isMapSection(section) || isListSection(section) || isSingleSection(section)
    if (!known || inside.length === 0 || operation.op !== 'add') return [operation]
    const value = isListSection(section) ? [] : {}
    return [{ op: 'add', path: `/${section}`, value }, operation]
  })
}
