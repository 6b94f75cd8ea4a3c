import { isMap, isScalar, isSeq, type Node, type Pair } from 'yaml'
import type { z } from 'zod'
import type { Estate } from '../estate'
import { sortProblems, type Problem } from '../problem'
import {
  FORMAT,
  isListSection,
  isMapSection,
  isSingleSection,
  keySchema,
  listSections,
  LIST_SECTIONS,
  mapSections,
  MAP_SECTIONS,
  SECTIONS,
  singleSections,
  type Section,
} from '../schema/document'
import { validate } from '../validate/validate'
import { complaints, nearest } from './issues'
import { DEFAULT_LIMITS, type Limits } from './limits'
import { locate, type Origin, type Origins, type Part, type Path } from './locate'
import { keyText, toPlain, type Conversion } from './plain'
import { parseSyntax, positionAt, type SourceDocument, type SourceFile, type Position } from './syntax'

export interface ReadResult {
  /** The estate, or null if there is any error. */
  readonly estate: Estate | null
  /** Everything wrong, in the order of the files. */
  readonly problems: readonly Problem[]
  /** Where an object, or a part of it, was written. */
  readonly locate: (section: Section, id: string, path?: Path, part?: Part) => Position
}

interface Draft {
  name: string | null
  format: string | null
  readonly sections: { [S in Section]?: Map<string, unknown> }
  readonly order: Section[]
  readonly origins: Origins
  readonly conversion: Conversion
  readonly problems: Problem[]
}

/**
 * Reads an estate from files in the format `salt-trail/1` (design part 2), YAML or JSON, and checks
 * everything. All problems are reported at once; with any error there is no estate.
 */
export function readEstate(files: readonly SourceFile[], limits: Limits = DEFAULT_LIMITS): ReadResult {
  const problems: Problem[] = []
  const first = files[0]?.name ?? ''
  const start: Position = { file: first, line: 1, column: 1 }
  const draft: Draft = {
    name: null,
    format: null,
    sections: {},
    order: [],
    origins: { entries: new Map(), start },
    conversion: { limits, problems, aliases: 0 },
    problems,
  }
  const where = (section: Section, id: string, path?: Path, part?: Part): Position => locate(draft.origins, section, id, path, part)

  const bytes = files.reduce((sum, file) => sum + utf8Length(file.text), 0)
  if (bytes > limits.bytes) {
    problems.push({
      severity: 'error',
      code: 'limit-bytes',
      message: `the files hold ${bytes} bytes; at most ${limits.bytes} are read (limit: bytes)`,
      ...start,
      object: null,
    })
    return { estate: null, problems, locate: where }
  }

  let documents = 0
  for (const file of files) {
    const parsed = parseSyntax(file)
    problems.push(...parsed.problems)
    for (const source of parsed.documents) {
      if (source.document.contents === null) continue
      documents++
      readDocument(draft, source)
    }
  }
  if (documents === 0 && problems.length === 0) {
    problems.push({
      severity: 'error',
      code: 'empty',
      message: `there is nothing in the file; an estate begins with "format: ${FORMAT}" and "name: …"`,
      ...start,
      object: null,
    })
  }
  if (documents > 0) requireHead(draft)
  checkCounts(draft, limits)
  const estate = assemble(draft)
  if (documents > 0) problems.push(...validate(estate, where, declaredIds(draft), (section) => [...(draft.sections[section]?.keys() ?? [])]))
  const sorted = sortProblems(
    problems,
    files.map((file) => file.name),
  )
  return { estate: sorted.some((p) => p.severity === 'error') ? null : estate, problems: sorted, locate: where }
}

function readDocument(draft: Draft, source: SourceDocument): void {
  const root = source.document.contents
  const error = (code: string, message: string, node: Node | null, suggestion?: string): void => {
    draft.problems.push({
      severity: 'error',
      code,
      message,
      ...positionAt(source, node?.range?.[0] ?? 0),
      object: null,
      ...(suggestion === undefined ? {} : { suggestion }),
    })
  }
  if (!isMap(root)) return error('wrong-type', 'an estate is a map of sections', root)
  const seen = new Set<string>()
  for (const pair of root.items as Pair<Node, Node>[]) {
    const name = keyText(pair.key)
    if (name === null) {
      error('bad-key', 'the name of a section is a plain word', pair.key)
      continue
    }
    if (seen.has(name)) error('duplicate-key', `the section "${name}" is given twice in one document; put their entries together`, pair.key)
    seen.add(name)
    if (name === 'format' || name === 'name') readHead(draft, name, pair, error)
    else if (isMapSection(name)) readMapSection(draft, source, name, pair)
    else if (isListSection(name)) readListSection(draft, source, name, pair)
    else if (isSingleSection(name)) readSingleSection(draft, source, name, pair)
    else {
      const known = ['format', 'name', ...SECTIONS]
      const meant = nearest(name, known)
      error(
        'unknown-key',
        `"${name}" is no section of an estate; ${meant ? `did you mean "${meant}"?` : `the sections are ${SECTIONS.join(', ')}`}`,
        pair.key,
        meant,
      )
    }
  }
}

function readHead(
  draft: Draft,
  key: 'format' | 'name',
  pair: Pair<Node, Node>,
  error: (code: string, message: string, node: Node | null, suggestion?: string) => void,
): void {
  const value = isScalar(pair.value) ? pair.value.value : undefined
  if (typeof value !== 'string' || value === '') {
    return error('wrong-type', `"${key}" is a text`, pair.value ?? pair.key)
  }
  if (key === 'format' && value !== FORMAT) {
    return error('bad-format', `the format "${value}" is not known; this reads ${FORMAT}`, pair.value, FORMAT)
  }
  const before = draft[key]
  if (before !== null && before !== value) {
    return error('duplicate-key', `"${key}" was "${before}" before and is "${value}" here; give it once, in the first document`, pair.value)
  }
  draft[key] = value
}

function requireHead(draft: Draft): void {
  for (const key of ['format', 'name'] as const) {
    const spoken = draft.problems.some((p) => p.object === null && (p.code === 'bad-format' || p.message.startsWith(`"${key}"`)))
    if (draft[key] !== null || spoken) continue
    const example = key === 'format' ? FORMAT : 'Halite Ferries'
    draft.problems.push({
      severity: 'error',
      code: 'missing-key',
      message: `"${key}" is missing; begin the first document with "${key}: ${example}"`,
      ...draft.origins.start,
      object: null,
      ...(key === 'format' ? { suggestion: `format: ${FORMAT}` } : {}),
    })
  }
}

function sectionOf(draft: Draft, section: Section): { objects: Map<string, unknown>; origins: Map<string, Origin> } {
  let objects = draft.sections[section]
  if (!objects) {
    objects = new Map()
    draft.sections[section] = objects
    draft.order.push(section)
  }
  let origins = draft.origins.entries.get(section)
  if (!origins) {
    origins = new Map()
    draft.origins.entries.set(section, origins)
  }
  return { objects, origins }
}

function readMapSection(draft: Draft, source: SourceDocument, section: keyof typeof mapSections, pair: Pair<Node, Node>): void {
  const { objects, origins } = sectionOf(draft, section)
  const value = derefer(pair.value, source)
  if (isEmpty(value)) return
  if (!isMap(value)) return wrongSection(draft, source, pair, `the section "${section}" is a map from id to object`)
  for (const entry of value.items as Pair<Node, Node>[]) {
    const id = keyText(entry.key)
    const at = positionAt(source, (entry.key ?? value).range?.[0] ?? 0)
    if (id === null) {
      draft.problems.push({ severity: 'error', code: 'bad-key', message: 'an id is a plain word', ...at, object: null })
      continue
    }
    const object = `${section}/${id}`
    if (origins.has(id)) {
      const before = locate(draft.origins, section, id)
      draft.problems.push({
        severity: 'error',
        code: 'duplicate-id',
        message: `"${id}" is in ${section} already, at line ${before.line} of ${before.file}; an id is given once in a section`,
        ...at,
        object,
      })
      continue
    }
    const key = keySchema(section).safeParse(id)
    if (!key.success) {
      const issue = key.error.issues[0]!
      draft.problems.push({
        severity: 'error',
        code: section === 'publicAddresses' ? 'bad-address' : 'bad-id',
        message: `"${id}": ${issue.message}`,
        ...at,
        object,
      })
    }
    origins.set(id, { source, key: entry.key, value: entry.value })
    const plain = toPlain(entry.value, source, object, draft.conversion) ?? {}
    const parsed = check(draft, mapSections[section], plain, section, id)
    if (parsed !== undefined) objects.set(id, parsed)
  }
}

function readListSection(draft: Draft, source: SourceDocument, section: keyof typeof listSections, pair: Pair<Node, Node>): void {
  const { objects, origins } = sectionOf(draft, section)
  const value = derefer(pair.value, source)
  if (isEmpty(value)) return
  if (!isSeq(value)) return wrongSection(draft, source, pair, `the section "${section}" is a list`)
  for (const item of value.items as Node[]) {
    const id = String(origins.size)
    origins.set(id, { source, key: item, value: item })
    const plain = toPlain(item, source, `${section}/${id}`, draft.conversion)
    const parsed = check(draft, listSections[section], plain, section, id)
    if (parsed !== undefined) objects.set(id, parsed)
  }
}

/** A section that is one object: documents may each give some of its keys. */
function readSingleSection(draft: Draft, source: SourceDocument, section: keyof typeof singleSections, pair: Pair<Node, Node>): void {
  const { objects, origins } = sectionOf(draft, section)
  const value = derefer(pair.value, source)
  if (isEmpty(value)) return
  const before = (objects.get(section) ?? {}) as Record<string, unknown>
  origins.set(section, { source, key: pair.key, value: pair.value })
  const plain = toPlain(value, source, section, draft.conversion)
  const parsed = check(draft, singleSections[section], plain, section, section) as Record<string, unknown> | undefined
  for (const key of Object.keys(parsed ?? {})) {
    if (!Object.hasOwn(before, key)) continue
    const at = locate(draft.origins, section, section, [key], 'key')
    draft.problems.push({
      severity: 'error',
      code: 'duplicate-key',
      message: `"${key}" of ${section} was given in an earlier document; keep one of them`,
      ...at,
      object: section,
    })
  }
  if (parsed) objects.set(section, { ...parsed, ...before })
}

function check(draft: Draft, schema: z.ZodType, plain: unknown, section: Section, id: string): unknown {
  const result = schema.safeParse(plain, { reportInput: true })
  if (result.success) return result.data
  const object = isSingleSection(section) ? section : objectName(section, id, plain)
  for (const complaint of complaints(schema, result.error.issues)) {
    draft.problems.push({
      severity: 'error',
      code: complaint.code,
      message: `${object}: ${complaint.message}`,
      ...locate(draft.origins, section, id, complaint.path, complaint.part),
      object,
      ...(complaint.suggestion === undefined ? {} : { suggestion: complaint.suggestion }),
    })
  }
  return undefined
}

/** Estate rules are named by their order, as causes name them; other list entries by their place. */
export function objectName(section: Section, id: string, plain: unknown): string {
  if (section !== 'estateRules') return `${section}/${id}`
  const order = (plain as { order?: unknown } | null)?.order
  return `${section}/${typeof order === 'number' ? order : id}`
}

function wrongSection(draft: Draft, source: SourceDocument, pair: Pair<Node, Node>, message: string): void {
  draft.problems.push({
    severity: 'error',
    code: 'wrong-type',
    message,
    ...positionAt(source, pair.value?.range?.[0] ?? pair.key.range?.[0] ?? 0),
    object: null,
  })
}

const isEmpty = (value: Node | null): boolean => value === null || (isScalar(value) && value.value === null)

function derefer(node: Node | null, source: SourceDocument): Node | null {
  return node && 'resolve' in node ? ((node as { resolve(doc: unknown): Node | undefined }).resolve(source.document) ?? null) : node
}

function assemble(draft: Draft): Estate {
  const sections: Record<string, unknown> = {}
  for (const section of MAP_SECTIONS) sections[section] = draft.sections[section] ?? new Map()
  for (const section of LIST_SECTIONS) sections[section] = [...(draft.sections[section]?.values() ?? [])]
  return {
    name: draft.name ?? '',
    ...sections,
    prices: draft.sections.prices?.get('prices') ?? null,
    quotas: draft.sections.quotas?.get('quotas') ?? null,
    order: draft.order,
  } as unknown as Estate
}

/** Every id that was written, also of objects that are wrong otherwise: a reference to one of those is no second fault. */
function declaredIds(draft: Draft): (section: Section, id: string) => boolean {
  return (section, id) => draft.origins.entries.get(section)?.has(id) ?? false
}

function checkCounts(draft: Draft, limits: Limits): void {
  const count = (section: Section, size: (object: never) => number): number =>
    [...(draft.sections[section]?.values() ?? [])].reduce<number>((sum, object) => sum + size(object as never), 0)
  type Routed = { routes?: unknown[] }
  type Ruled = { rules?: unknown[]; policy?: unknown[] }
  const counts = {
    subnets: draft.sections.subnets?.size ?? 0,
    routes:
      count('routeTables', (t: Routed) => t.routes?.length ?? 0) +
      count('firewalls', (f: Routed) => f.routes?.length ?? 0) +
      count('transits', (t: { tables?: Record<string, Routed> }) => Object.values(t.tables ?? {}).reduce((sum, table) => sum + (table.routes?.length ?? 0), 0)),
    rules:
      count('ruleSets', (s: Ruled) => s.rules?.length ?? 0) + count('firewalls', (f: Ruled) => f.policy?.length ?? 0) + (draft.sections.estateRules?.size ?? 0),
  }
  for (const [name, value] of Object.entries(counts) as [keyof typeof counts, number][]) {
    if (value <= limits[name]) continue
    draft.problems.push({
      severity: 'error',
      code: `limit-${name}`,
      message: `the estate has ${value} ${name}; at most ${limits[name]} are taken (limit: ${name})`,
      ...draft.origins.start,
      object: null,
    })
  }
}

/** The length in UTF-8 without encoding the text. */
function utf8Length(text: string): number {
  let length = text.length
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i)
    if (code > 0x7f) length += code > 0x7ff && (code < 0xd800 || code > 0xdfff) ? 2 : 1
  }
  return length
}
