import type { z } from 'zod'
import type { Problem } from '../problem'
import {
  type Section,
  mapSections,
  keySchema,
  listSections,
  singleSections,
  isSingleSection,
} from '../schema/document'
import { complaints } from './issues'
import { textsWithNul } from './nul'
import type { SourceEntry, Position, Conversion, SourceSection } from './source'

export interface Draft {
  name: string | null
  format: string | null
  readonly sections: {
    [S in Section]?: Map<string, unknown>
  }
  readonly order: Section[]
  /** Where each object was written. */
  readonly origins: Map<Section, Map<string, SourceEntry>>
  readonly start: Position
  readonly conversion: Conversion
  /**
   * Whether any text of the files may hold the character U+0000, so that each text is looked at.
   */
  readonly mayHoldNul: boolean
  readonly problems: Problem[]
}

export type ReportError = (code: string, message: string, at: Position, suggestion?: string) => void

function sectionOf(
  draft: Draft,
  section: Section,
): { objects: Map<string, unknown>; origins: Map<string, SourceEntry> } {
  let objects = draft.sections[section]
  if (!objects) {
    objects = new Map()
    draft.sections[section] = objects
    draft.order.push(section)
  }
  let origins = draft.origins.get(section)
  if (!origins) {
    origins = new Map()
    draft.origins.set(section, origins)
  }
  return { objects, origins }
}

/** Reads a section that is a map from id to object. */
export function readMapSection(
  draft: Draft,
  name: keyof typeof mapSections,
  section: SourceSection,
  error: ReportError,
): void {
  const { objects, origins } = sectionOf(draft, name)
  if (section.shape === 'empty') return
  if (section.shape !== 'map')
    return error('wrong-type', `the section "${name}" is a map from id to object`, section.valueAt)
  for (const entry of section.entries()) {
    const id = entry.key
    if (id === null) {
      error('bad-key', 'an id is a plain word', entry.at())
      continue
    }
    const object = `${name}/${id}`
    const before = origins.get(id)
    if (before) {
      const message = `"${id}" is in ${name} already, at line ${before.at().line} of ${before.at().file}; an id is given once in a section`
      draft.problems.push({
        severity: 'error',
        code: 'duplicate-id',
        message,
        ...entry.at(),
        object,
      })
      continue
    }
    const key = keySchema(name).safeParse(id)
    if (!key.success) {
      const message = `"${id}": ${key.error.issues[0]!.message}`
      draft.problems.push({
        severity: 'error',
        code: name === 'publicAddresses' ? 'bad-address' : 'bad-id',
        message,
        ...entry.at(),
        object,
      })
    }
    origins.set(id, withoutValue(entry))
    const parsed = check(draft, mapSections[name], entry.value ?? {}, name, id)
    if (parsed !== undefined) objects.set(id, parsed)
  }
}

/** What is read is let go; only how to say where it stands is kept. */
const withoutValue = ({ key, at, find }: SourceEntry): SourceEntry => ({
  key,
  at,
  find,
  value: null,
})

/** Reads a section that is a list. */
export function readListSection(
  draft: Draft,
  name: keyof typeof listSections,
  section: SourceSection,
  error: ReportError,
): void {
  const { objects, origins } = sectionOf(draft, name)
  if (section.shape === 'empty') return
  if (section.shape !== 'list')
    return error('wrong-type', `the section "${name}" is a list`, section.valueAt)
  for (const entry of section.entries()) {
    const id = String(origins.size)
    origins.set(id, withoutValue(entry))
    const parsed = check(draft, listSections[name], entry.value, name, id)
    if (parsed !== undefined) objects.set(id, parsed)
  }
}

/** A section that is one object: documents may each give some of its keys. */
export function readSingleSection(
  draft: Draft,
  name: keyof typeof singleSections,
  section: SourceSection,
): void {
  const { objects, origins } = sectionOf(draft, name)
  if (section.shape === 'empty') return
  const before = (objects.get(name) ?? {}) as Record<string, unknown>
  const entry = section.whole()
  origins.set(name, withoutValue(entry))
  const parsed = check(draft, singleSections[name], entry.value, name, name) as
    Record<string, unknown> | undefined
  for (const key of Object.keys(parsed ?? {})) {
    if (!Object.hasOwn(before, key)) continue
    const message = `"${key}" of ${name} was given in an earlier document; keep one of them`
    draft.problems.push({
      severity: 'error',
      code: 'duplicate-key',
      message,
      ...entry.find([key], 'key'),
      object: name,
    })
  }
  if (parsed) objects.set(name, { ...parsed, ...before })
}

function check(
  draft: Draft,
  schema: z.ZodType,
  plain: unknown,
  section: Section,
  id: string,
): unknown {
  const result = schema.safeParse(plain, { reportInput: true })
  const nuls = draft.mayHoldNul ? textsWithNul(plain) : []
  if (result.success && nuls.length === 0) return result.data
  const object = isSingleSection(section) ? section : objectName(section, id, plain)
  const origin = draft.origins.get(section)?.get(id)
  for (const complaint of [
    ...nuls,
    ...(result.success ? [] : complaints(schema, result.error.issues)),
  ]) {
    draft.problems.push({
      severity: 'error',
      code: complaint.code,
      message: `${object}: ${complaint.message}`,
      ...(origin?.find(complaint.path, complaint.part) ?? draft.start),
      object,
      ...(complaint.suggestion === undefined ? {} : { suggestion: complaint.suggestion }),
    })
  }
  return undefined
}

/**
 * Estate rules are named by their order, as causes name them; other list entries by their place.
 */
export function objectName(section: Section, id: string, plain: unknown): string {
  if (section !== 'estateRules') return `${section}/${id}`
  const order = (plain as { order?: unknown } | null)?.order
  return `${section}/${typeof order === 'number' ? order : id}`
}
