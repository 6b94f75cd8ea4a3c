import type { Estate } from '../estate'
import { sortProblems, tellMost, type Problem } from '../problem'
import {
  FORMAT,
  MOST_NAME,
  isListSection,
  isMapSection,
  isSingleSection,
  LIST_SECTIONS,
  MAP_SECTIONS,
  SECTIONS,
  type Section,
} from '../schema/document'
import { validate, type Found } from '../validate/validate'
import { nearest } from './issues'
import { HOLDS_NUL, mayHoldNul, NUL } from './nul'
import { readJson } from './json'
import { isNestedTooDeep } from './depth'
import { DEFAULT_LIMITS, type Limits } from './limits'
import type {
  Conversion,
  Part,
  Path,
  Position,
  SourceDocument,
  SourceEntry,
  SourceFile,
  SourceSection,
} from './source'
import { readYaml } from './yaml'
import { readYamlInPieces } from './yaml-in-pieces'
import {
  type Draft,
  type ReportError,
  readMapSection,
  readListSection,
  readSingleSection,
} from './sections'

export interface ReadResult {
  /** The estate, or null if there is any error. */
  readonly estate: Estate | null
  /** Everything wrong, in the order of the files; of very much the first, and how much more. */
  readonly problems: readonly Problem[]
  /** Where an object, or a part of it, was written. */
  readonly locate: (section: Section, id: string, path?: Path, part?: Part) => Position
}

/**
 * Reads an estate from files in the format `salt-trail/1` (design part 2), YAML or JSON, and checks
 * everything. Problems are reported at once, of very many the first 200 errors and 200 warnings and
 * how many more there are; with any error there is no estate.
 */
export function readEstate(
  files: readonly SourceFile[],
  limits: Limits = DEFAULT_LIMITS,
): ReadResult {
  const problems: Problem[] = []
  const first = files[0]?.name ?? ''
  const start: Position = { file: first, line: 1, column: 1 }
  const draft: Draft = {
    name: null,
    format: null,
    sections: {},
    order: [],
    origins: new Map(),
    start,
    conversion: { limits, problems, aliases: 0, expanded: 0 },
    mayHoldNul: files.some(({ text }) => mayHoldNul(text)),
    problems,
  }
  const where = (section: Section, id: string, path: Path = [], part: Part = 'value'): Position =>
    draft.origins.get(section)?.get(id)?.find(path, part) ?? start

  const bytes = files.reduce((sum, file) => sum + utf8Length(file.text), 0)
  const problem = (code: string, message: string): void =>
    void problems.push({ severity: 'error', code, message, ...start, object: null })
  if (bytes > limits.bytes) {
    problem(
      'limit-bytes',
      `the files hold ${bytes} bytes; at most ${limits.bytes} are read (limit: bytes)`,
    )
    return { estate: null, problems, locate: where }
  }

  let documents = 0
  for (const file of files) {
    for (const source of documentsOf(file, draft.conversion)) {
      documents++
      readDocument(draft, source)
    }
  }
  if (documents === 0 && problems.length === 0)
    problem(
      'empty',
      `there is nothing in the file; an estate begins with "format: ${FORMAT}" and "name: …"`,
    )
  if (documents > 0) requireHead(draft)
  checkCounts(draft, limits)
  const estate = assemble(draft)
  const listIds = (section: Section): string[] => [...(draft.sections[section]?.keys() ?? [])]
  const found = documents > 0 ? validate(estate, where, declaredIds(draft), listIds) : NOTHING_FOUND
  const sorted = sortProblems(
    [...problems, ...found.problems],
    files.map((file) => file.name),
  )
  return {
    estate: sorted.some((p) => p.severity === 'error') ? null : estate,
    problems: tellMost(sorted, found.beyond),
    locate: where,
  }
}

const NOTHING_FOUND: Found = { problems: [], beyond: { error: 0, warning: 0 } }

/**
 * Each notation in the fastest way that fits the file; what the fast ways do not take, the thorough
 * one does.
 */
function documentsOf(file: SourceFile, conversion: Conversion): readonly SourceDocument[] {
  const whole = file.text.startsWith('\ufeff') ? { ...file, text: file.text.slice(1) } : file
  if (isNestedTooDeep(whole, conversion)) return []
  return (
    readJson(whole, conversion) ??
    readYamlInPieces(whole, conversion) ??
    readYaml(whole, conversion)
  )
}

function readDocument(draft: Draft, source: SourceDocument): void {
  const error: ReportError = (code, message, at, suggestion) =>
    void draft.problems.push({
      severity: 'error',
      code,
      message,
      ...at,
      object: null,
      ...(suggestion === undefined ? {} : { suggestion }),
    })
  if (source.sections === null)
    return error('wrong-type', 'an estate is a map of sections', source.at)
  const seen = new Set<string>()
  for (const section of source.sections) {
    const { name } = section
    if (name === null) {
      error('bad-key', 'the name of a section is a plain word', section.at)
      continue
    }
    if (seen.has(name))
      error(
        'duplicate-key',
        `the section "${name}" is given twice in one document; put their entries together`,
        section.at,
      )
    seen.add(name)
    if (name === 'format' || name === 'name') readHead(draft, name, section, error)
    else if (isMapSection(name)) readMapSection(draft, name, section, error)
    else if (isListSection(name)) readListSection(draft, name, section, error)
    else if (isSingleSection(name)) readSingleSection(draft, name, section)
    else {
      const known = ['format', 'name', ...SECTIONS]
      const meant = nearest(name, known)
      error(
        'unknown-key',
        `"${name}" is no section of an estate; ${meant ? `did you mean "${meant}"?` : `the sections are ${SECTIONS.join(', ')}`}`,
        section.at,
        meant,
      )
    }
  }
}

function readHead(
  draft: Draft,
  key: 'format' | 'name',
  section: SourceSection,
  error: ReportError,
): void {
  const { value } = section.whole()
  if (typeof value !== 'string' || value === '')
    return error('wrong-type', `"${key}" is a text`, section.valueAt)
  if (value.includes(NUL)) return error('bad-text', `"${key}" ${HOLDS_NUL}`, section.valueAt)
  if (key === 'name' && value.length > MOST_NAME)
    return error(
      'out-of-range',
      `"name" has ${value.length} characters; at most ${MOST_NAME} are wanted`,
      section.valueAt,
    )
  if (key === 'format' && value !== FORMAT)
    return error(
      'bad-format',
      `the format "${value}" is not known; this reads ${FORMAT}`,
      section.valueAt,
      FORMAT,
    )
  const before = draft[key]
  if (before !== null && before !== value) {
    return error(
      'duplicate-key',
      `"${key}" was "${before}" before and is "${value}" here; give it once, in the first document`,
      section.valueAt,
    )
  }
  draft[key] = value
}

function requireHead(draft: Draft): void {
  for (const key of ['format', 'name'] as const) {
    const spoken = draft.problems.some(
      (p) => p.object === null && (p.code === 'bad-format' || p.message.startsWith(`"${key}"`)),
    )
    if (draft[key] !== null || spoken) continue
    const example = key === 'format' ? FORMAT : 'Halite Ferries'
    draft.problems.push({
      severity: 'error',
      code: 'missing-key',
      message: `"${key}" is missing; begin the first document with "${key}: ${example}"`,
      ...draft.start,
      object: null,
      ...(key === 'format' ? { suggestion: `format: ${FORMAT}` } : {}),
    })
  }
}

function assemble(draft: Draft): Estate {
  const sections: Record<string, unknown> = {}
  for (const section of MAP_SECTIONS) sections[section] = draft.sections[section] ?? new Map()
  for (const section of LIST_SECTIONS)
    sections[section] = [...(draft.sections[section]?.values() ?? [])]
  return {
    name: draft.name ?? '',
    ...sections,
    prices: draft.sections.prices?.get('prices') ?? null,
    quotas: draft.sections.quotas?.get('quotas') ?? null,
    order: draft.order,
  } as unknown as Estate
}

/**
 * Every id that was written, also of objects that are wrong otherwise: a reference to one of those
 * is no second fault.
 */
function declaredIds(
  draft: Draft,
): (section: Section) => { has(id: string): boolean; keys(): Iterable<string> } {
  const none = new Map<string, SourceEntry>()
  return (section) => draft.origins.get(section) ?? none
}

function checkCounts(draft: Draft, limits: Limits): void {
  const count = (section: Section, size: (object: never) => number): number =>
    [...(draft.sections[section]?.values() ?? [])].reduce<number>(
      (sum, object) => sum + size(object as never),
      0,
    )
  type Routed = { routes?: unknown[] }
  type Ruled = { rules?: unknown[]; policy?: unknown[] }
  const counts = {
    subnets: draft.sections.subnets?.size ?? 0,
    routes:
      count('routeTables', (t: Routed) => t.routes?.length ?? 0) +
      count('firewalls', (f: Routed) => f.routes?.length ?? 0) +
      count('transits', (t: { tables?: Record<string, Routed> }) =>
        Object.values(t.tables ?? {}).reduce((sum, table) => sum + (table.routes?.length ?? 0), 0),
      ),
    rules:
      count('ruleSets', (s: Ruled) => s.rules?.length ?? 0) +
      count('firewalls', (f: Ruled) => f.policy?.length ?? 0) +
      (draft.sections.estateRules?.size ?? 0),
  }
  for (const [name, value] of Object.entries(counts) as [keyof typeof counts, number][]) {
    if (value <= limits[name]) continue
    draft.problems.push({
      severity: 'error',
      code: `limit-${name}`,
      message: `the estate has ${value} ${name}; at most ${limits[name]} are taken (limit: ${name})`,
      ...draft.start,
      object: null,
    })
  }
}

/**
 * The length in UTF-8 without encoding the text. A plain loop: a pattern would be interpreted on
 * its one run.
 */
function utf8Length(text: string): number {
  let length = text.length
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i)
    if (code > 0x7f) length += code > 0x7ff && (code < 0xd800 || code > 0xdfff) ? 2 : 1
  }
  return length
}
