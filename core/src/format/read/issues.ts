import { closest, distance } from 'fastest-levenshtein'
import type { z } from 'zod'
import type { IssueParams } from '../schema/values'
import type { Part, Path } from './source'

/** A Zod issue in words, before it has a position. */
export interface Complaint {
  readonly code: string
  readonly message: string
  readonly path: Path
  readonly part: Part
  readonly suggestion?: string
}

type Issue = z.core.$ZodIssue & { readonly input?: unknown; readonly params?: IssueParams }

/** The nearest of some known words, if it is near enough to have been meant. */
export function nearest(word: string, known: readonly string[]): string | undefined {
  if (known.length === 0) return undefined
  const folded = known.find((candidate) => candidate.toLowerCase() === word.toLowerCase())
  if (folded) return folded
  const best = closest(word, known as string[])
  return distance(word, best) <= Math.max(2, Math.floor(best.length / 3)) ? best : undefined
}

/** Every issue Zod found with a value, as sentences. */
export function complaints(schema: z.ZodType, issues: readonly z.core.$ZodIssue[]): Complaint[] {
  return issues.flatMap((issue) => complain(schema, issue as Issue, []))
}

function complain(schema: z.ZodType, issue: Issue, before: Path): Complaint[] {
  const path = [...before, ...(issue.path as Path)]
  const where = path.length === 0 ? '' : `${pathText(path)}: `
  const one = (
    code: string,
    message: string,
    suggestion?: string,
    part: Part = 'value',
  ): Complaint[] => [
    {
      code,
      message: where + message,
      path,
      part,
      ...(suggestion === undefined ? {} : { suggestion }),
    },
  ]
  switch (issue.code) {
    case 'custom':
      return one(issue.params?.code ?? 'bad-value', issue.message, issue.params?.suggestion)
    case 'unrecognized_keys': {
      const known = keysAt(schema, path)
      return issue.keys.map((key) => unknownKey(key, known, path))
    }
    case 'invalid_type':
      if (issue.input === undefined) return [missing(path)]
      return one(
        'wrong-type',
        `${TYPE_WORDS[issue.expected] ?? issue.expected} is wanted, not ${kindOf(issue.input)}${quoteAdvice(issue)}`,
      )
    case 'invalid_value': {
      if (issue.input === undefined) return [missing(path, issue.values.map(String))]
      const known = issue.values.map(String)
      const meant = typeof issue.input === 'string' ? nearest(issue.input, known) : undefined
      return one(
        'bad-value',
        `${show(issue.input)} is not known here; one of ${known.join(', ')} is wanted`,
        meant,
      )
    }
    case 'invalid_key':
      return (issue.issues as Issue[]).flatMap((inner) =>
        complain(schema, { ...inner, path: [] } as Issue, path).map((c) => ({
          ...c,
          code: c.code === 'bad-value' ? 'bad-id' : c.code,
          part: 'key' as const,
        })),
      )
    case 'invalid_format':
      return one('bad-value', `${show(issue.input)} does not fit: ${issue.message}`)
    case 'too_small':
    case 'too_big':
      return one('out-of-range', sizeText(issue))
    case 'invalid_union':
      return union(schema, issue, path)
    default:
      return one('bad-value', issue.message)
  }
}

function missing(path: Path, words: readonly string[] = []): Complaint {
  const choice = words.length > 0 ? `: one of ${words.join(', ')}` : ''
  return {
    code: 'missing-key',
    message: `${parentText(path)}"${String(path.at(-1) ?? '')}" is missing${choice}`,
    path: path.slice(0, -1),
    part: 'key',
  }
}

function unknownKey(key: string, known: readonly string[], path: Path): Complaint {
  const where = path.length === 0 ? '' : `${pathText(path)}: `
  const meant = nearest(key, known)
  const advice = meant ? `did you mean "${meant}"?` : `known here: ${known.join(', ')}`
  return {
    code: 'unknown-key',
    message: `${where}"${key}" is no key of this object; ${advice}`,
    path: [...path, key],
    part: 'key',
    ...(meant ? { suggestion: meant } : {}),
  }
}

/**
 * The complaints of the branch of a union that was most likely meant; branches of another type are
 * left out.
 */
function union(
  schema: z.ZodType,
  issue: Issue & { code: 'invalid_union' },
  path: Path,
): Complaint[] {
  if (issue.input === undefined) return [missing(path)]
  if (issue.errors.length === 0) return [withoutStyle(issue, path)]
  const branches = issue.errors as unknown as Issue[][]
  const fitting = branches.filter(
    (errors) =>
      !errors.some(
        (e) => e.path.length === 0 && (e.code === 'invalid_type' || e.code === 'invalid_value'),
      ),
  )
  const words = branches
    .flat()
    .flatMap((e) => (e.code === 'invalid_value' && e.path.length === 0 ? e.values.map(String) : []))
  if (fitting.length === 0) return [fitsNone(issue.input, path, words, branches.flat())]
  const best = fitting.reduce((a, b) => (weight(b) < weight(a) ? b : a))
  const said = best.flatMap((inner) => complain(schema, inner, path))
  if (typeof issue.input !== 'string' || words.length === 0) return said
  const meant = nearest(issue.input, words)
  return said.map((c) => ({
    ...c,
    message: `${c.message}; the word${words.length > 1 ? 's' : ''} ${words.join(', ')} ${words.length > 1 ? 'fit' : 'fits'} too`,
    ...(c.suggestion === undefined && meant ? { suggestion: meant } : {}),
  }))
}

/** An object whose kind is told by a word that is missing or unknown. */
function withoutStyle(issue: Issue & { code: 'invalid_union' }, path: Path): Complaint {
  const key = (issue as { discriminator?: string }).discriminator ?? 'style'
  const given = (issue.input as Record<string, unknown> | undefined)?.[key]
  const at = issue.path.at(-1) === key ? path : [...path, key]
  return given === undefined
    ? { code: 'missing-key', message: `"${key}" is missing`, path: at.slice(0, -1), part: 'key' }
    : {
        code: 'bad-value',
        message: `${key}: ${show(given)} is not known here; routed or ${path.length ? '' : 'another known style '}is wanted`,
        path: at,
        part: 'value',
      }
}

/** A value of none of the kinds that may stand there. */
function fitsNone(
  input: unknown,
  path: Path,
  words: readonly string[],
  issues: readonly Issue[],
): Complaint {
  const kinds = issues.flatMap((e) =>
    e.code === 'invalid_type' && e.path.length === 0 ? [TYPE_WORDS[e.expected] ?? e.expected] : [],
  )
  const wanted = [...words, ...new Set(kinds)].join(', ')
  const meant = typeof input === 'string' ? nearest(input, words) : undefined
  const where = path.length === 0 ? '' : `${pathText(path)}: `
  return {
    code: 'bad-value',
    message: `${where}${show(input)} does not fit; wanted: ${wanted}`,
    path,
    part: 'value',
    ...(meant ? { suggestion: meant } : {}),
  }
}

/** How far a branch is from fitting: an unknown key weighs more than a wrong value. */
const weight = (errors: readonly Issue[]): number =>
  errors.reduce(
    (sum, e) => sum + (e.code === 'unrecognized_keys' || e.input === undefined ? 3 : 1),
    0,
  )

const TYPE_WORDS: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'a map',
  record: 'a map',
}

function kindOf(value: unknown): string {
  if (value === null) return 'nothing'
  if (Array.isArray(value)) return 'a list'
  if (typeof value === 'object') return 'a map'
  return typeof value === 'string' ? `the text ${show(value)}` : `${show(value)}`
}

const quoteAdvice = (issue: Issue & { code: 'invalid_type' }): string =>
  issue.expected === 'string' &&
  (typeof issue.input === 'number' || typeof issue.input === 'boolean')
    ? `; put it in quotes: "${String(issue.input)}"`
    : ''

function show(value: unknown): string {
  const text = typeof value === 'string' ? `"${value}"` : (JSON.stringify(value) ?? 'nothing')
  return text.length > 60 ? `${text.slice(0, 57)}…` : text
}

function sizeText(issue: Issue & { code: 'too_small' | 'too_big' }): string {
  const bound =
    issue.code === 'too_small' ? `at least ${issue.minimum}` : `at most ${issue.maximum}`
  if (issue.origin === 'array') return `${bound} entries are wanted`
  if (issue.origin === 'string') return `${bound} characters are wanted`
  return `${show(issue.input)} is out of range; ${bound} is wanted`
}

/** A path in an object in words, entries counted from 1. */
export const pathText = (path: Path): string =>
  path.reduce<string>(
    (text, step) =>
      typeof step === 'number' ? `${text}[${step + 1}]` : text === '' ? step : `${text}.${step}`,
    '',
  )

const parentText = (path: Path): string =>
  path.length > 1 ? `${pathText(path.slice(0, -1))}: ` : ''

/** The keys an object at `path` of `schema` may have, over all branches of unions on the way. */
export function keysAt(schema: z.ZodType, path: Path): string[] {
  let at: z.core.$ZodType[] = unfold(schema)
  for (const step of path) {
    at = at.flatMap((type) => {
      const def = type._zod.def as unknown as {
        type: string
        shape?: Record<string, z.core.$ZodType>
        element?: z.core.$ZodType
        valueType?: z.core.$ZodType
      }
      if (def.type === 'object') return unfold(def.shape?.[String(step)])
      if (def.type === 'array') return unfold(def.element)
      if (def.type === 'record') return unfold(def.valueType)
      return []
    })
  }
  return [
    ...new Set(
      at.flatMap((type) =>
        Object.keys((type._zod.def as unknown as { shape?: object }).shape ?? {}),
      ),
    ),
  ]
}

function unfold(type: z.core.$ZodType | undefined): z.core.$ZodType[] {
  if (!type) return []
  const def = type._zod.def as unknown as {
    type: string
    innerType?: z.core.$ZodType
    options?: z.core.$ZodType[]
  }
  if (def.type === 'optional') return unfold(def.innerType)
  if (def.type === 'union') return (def.options ?? []).flatMap(unfold)
  return [type]
}
