import { isAlias, isMap, isScalar, isSeq, type Node } from 'yaml'
import type { Limits } from './limits'
import { positionAt, type SourceDocument } from './syntax'
import type { Problem } from '../problem'

/** What all conversions of one reading share: the count of aliases and where to report. */
export interface Conversion {
  readonly limits: Limits
  readonly problems: Problem[]
  aliases: number
}

export type Plain = string | number | boolean | null | Plain[] | { [key: string]: Plain }

/** The text of a map's key as it was written, so that `010` stays `010`. */
export function keyText(key: unknown): string | null {
  if (!isScalar(key)) return null
  return typeof key.value === 'string' ? key.value : (key.source ?? String(key.value))
}

/** A YAML node as plain values. Reports duplicate keys, excess aliases and excess depth, and goes on. */
export function toPlain(node: Node | null | undefined, source: SourceDocument, object: string | null, conversion: Conversion, depth = 0): Plain {
  const report = (code: string, message: string, at: Node): void => {
    conversion.problems.push({
      severity: 'error',
      code,
      message,
      ...positionAt(source, at.range?.[0] ?? 0),
      object,
    })
  }
  if (!node) return null
  if (depth > conversion.limits.depth) {
    report('limit-depth', `nested more than ${conversion.limits.depth} deep (limit: depth)`, node)
    return null
  }
  if (isAlias(node)) {
    conversion.aliases++
    if (conversion.aliases === conversion.limits.aliases + 1) {
      report('limit-aliases', `more than ${conversion.limits.aliases} aliases are expanded (limit: aliases); write the values out`, node)
    }
    if (conversion.aliases > conversion.limits.aliases) return null
    const target = node.resolve(source.document)
    if (!target) report('syntax', `the alias *${node.source} names no anchor before it`, node)
    return toPlain(target, source, object, conversion, depth + 1)
  }
  if (isScalar(node)) {
    const { value } = node
    return typeof value === 'bigint' ? Number(value) : (value as Plain)
  }
  if (isSeq(node)) {
    return node.items.map((item) => toPlain(item as Node, source, object, conversion, depth + 1))
  }
  if (isMap(node)) {
    const out: { [key: string]: Plain } = {}
    for (const pair of node.items) {
      const name = keyText(pair.key)
      if (name === null) {
        report('bad-key', 'a key is a plain word here, not a list or a map', (pair.key as Node) ?? node)
        continue
      }
      if (Object.hasOwn(out, name)) {
        report('duplicate-key', `"${name}" is given twice; keep one of them`, pair.key as Node)
        continue
      }
      // defineProperty: "__proto__" is a key like any other.
      Object.defineProperty(out, name, {
        value: toPlain(pair.value as Node, source, object, conversion, depth + 1),
        enumerable: true,
        writable: true,
        configurable: true,
      })
    }
    return out
  }
  return null
}
