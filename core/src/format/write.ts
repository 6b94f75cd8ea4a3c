import { Document, isMap, isPair, isScalar, isSeq, visit } from 'yaml'
import type { Estate } from './estate'
import { FORMAT, isListSection, isMapSection, SECTIONS, type Section } from './schema/document'

/** The estate as ordered key-value pairs, the shape both notations are written from. */
function entries(estate: Estate): Map<string, unknown> {
  const out = new Map<string, unknown>([
    ['format', FORMAT],
    ['name', estate.name],
  ])
  const named = new Set<Section>(estate.order)
  for (const section of [...estate.order, ...SECTIONS.filter((s) => !named.has(s))]) {
    const value = estate[section]
    const empty =
      value === null ||
      (isMapSection(section)
        ? (value as ReadonlyMap<string, unknown>).size === 0
        : isListSection(section) && (value as readonly unknown[]).length === 0)
    if (!empty || named.has(section)) out.set(section, value ?? {})
  }
  return out
}

/**
 * Writes an estate as YAML 1.2; reading it again gives an equal estate, with everything in the same
 * order.
 */
export function writeYaml(estate: Estate): string {
  const document = new Document(entries(estate), { version: '1.2', aliasDuplicateObjects: false })
  putLeavesOnOneLine(document, 3)
  return document.toString({ lineWidth: 120, flowCollectionPadding: true })
}

/** One object as YAML, as it stands in a document but for its place. */
export function writeObject(object: unknown): string {
  const document = new Document(object, { version: '1.2', aliasDuplicateObjects: false })
  putLeavesOnOneLine(document, 0)
  return document.toString({ lineWidth: 90, flowCollectionPadding: true })
}

function putLeavesOnOneLine(document: Document, below: number): void {
  visit(document, {
    // Small leaves on one line, as people write them: `ranges: [10.40.0.0/16, 2001:db8:40::/56]`.
    Collection(_, node, path) {
      const leaf =
        (isSeq(node) || isMap(node)) &&
        (node.items as unknown[]).every((item) => isScalar(isPair(item) ? item.value : item))
      if (leaf && path.length > below && (isSeq(node) || node.items.length <= 4)) node.flow = true
    },
  })
}

/**
 * Writes an estate as JSON (RFC 8259), keeping the order of everything, ids made of digits
 * included.
 */
export function writeJson(estate: Estate): string {
  const members = [...entries(estate)].map(
    ([key, value]) => `  ${JSON.stringify(key)}: ${sectionJson(value)}`,
  )
  return `{\n${members.join(',\n')}\n}\n`
}

function sectionJson(value: unknown): string {
  if (Array.isArray(value))
    return value.length === 0
      ? '[]'
      : `[\n${value.map((v) => `    ${JSON.stringify(v)}`).join(',\n')}\n  ]`
  if (!(value instanceof Map)) return JSON.stringify(value)
  const members = [...value].map(
    ([id, object]) => `    ${JSON.stringify(id)}: ${JSON.stringify(object)}`,
  )
  return members.length === 0 ? '{}' : `{\n${members.join(',\n')}\n  }`
}
