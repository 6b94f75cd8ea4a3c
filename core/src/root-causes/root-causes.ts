import { hostPrefix, isPrefixFault, parsePrefix, type Prefix } from '../address/prefix'
import { familyOf, parseAddress, type Family } from '../address/address'
import { rangeSetOf, type RangeSet } from '../address/ranges'
import { byOwner, ownerText } from '../addresses/named-space'
import {
  byGravity,
  fingerprint,
  SEVERITIES,
  type FindingCode,
  type Severity,
  type ToldFinding,
} from '../findings/finding'
import { FINDINGS } from '../findings/records'
import { rootKey, type Root } from '../findings/root'
import { splitRef } from '../format/ref'
import { isMapSection } from '../format/schema/document'
import type { Model } from '../model/model'
import { likesOf, numbersOf, unlikeTexts } from './likes'
import { decidesText } from './words'

/** One thing that decides, with the findings that it decides, the gravest first. */
export interface DecidedBy {
  readonly root: Root
  readonly findings: readonly ToldFinding[]
}

/**
 * A root cause: what has to change for some findings to go. What decides alike in several objects,
 * such as a route that thirty tables lack, is one entry.
 */
export interface RootCause {
  /** The same entry keeps it from revision to revision, whoever joins it. */
  readonly fingerprint: string
  readonly severity: Severity
  /** The code of its gravest finding. */
  readonly code: FindingCode
  readonly sentence: string
  /** Each thing that decides, the one with the gravest findings first. */
  readonly roots: readonly DecidedBy[]
  /** How many findings of each code there are, the most first. */
  readonly codes: readonly { readonly code: FindingCode; readonly findings: number }[]
  readonly findings: number
  /** How many subnets and hosts it touches. */
  readonly subnets: number
  readonly hosts: number
  /** What is exposed or lost: whose destinations, or which ports; exactly in its findings. */
  readonly concerns: readonly string[]
  /** What tells the objects that decide from the many they are otherwise like; none where nothing does. */
  readonly unlike: readonly string[]
}

/**
 * The findings of an estate by their root causes (design part 4.3): those that one thing decides
 * are together, and things of one kind that decide alike in objects of one section are one entry.
 * The gravest entry first, then the one on which the most hangs: hosts exposed to, or cut off from,
 * how much. Every finding is in just one.
 * Costs a step for each finding, and a sort.
 */
export function rootCauses(model: Model, findings: readonly ToldFinding[]): RootCause[] {
  const byRoot = new Map<string, { root: Root; findings: ToldFinding[] }>()
  for (const one of [...findings].sort(byGravity)) {
    const key = rootKey(one.root)
    const known = byRoot.get(key)
    if (known) known.findings.push(one)
    else byRoot.set(key, { root: one.root, findings: [one] })
  }
  const entries = new Map<string, DecidedBy[]>()
  for (const decided of byRoot.values()) {
    const key = entryKey(decided)
    const known = entries.get(key)
    if (known) known.push(decided)
    else entries.set(key, [decided])
  }
  return [...entries]
    .map(([key, roots]) => weighed(model, key, roots))
    .sort(byWeight)
    .map(({ entry }) => entry)
}

/** An entry, and how much hangs on it: its hosts, by how many addresses they are exposed to or lose. */
interface Weighed {
  readonly entry: RootCause
  readonly weight: number
}

/** What things that decide alike have in common: all but names. */
function entryKey({ root: { kind, object, part }, findings }: DecidedBy): string {
  const { code, severity } = findings[0]!
  return [code, severity, kind, sectionOf(object), kind === 'rule' ? '' : sectionOf(part)].join()
}

/** The section of a ref; other words as they stand, and addresses as what they are. */
function sectionOf(text: string): string {
  const [section] = splitRef(text)
  if (isMapSection(section)) return section
  return typeof parseAddress(text) === 'string' ? text : 'address'
}

function weighed(model: Model, key: string, roots: readonly DecidedBy[]): Weighed {
  const findings = roots.flatMap((one) => one.findings)
  const [{ code, severity, sentence }] = findings as [ToldFinding]
  const section = sectionOf(roots[0]!.root.object)
  const objects = [...new Set(roots.map(({ root }) => root.object))]
  const named = { roots: roots.map(({ root }) => root), ...likesOf(model, section, objects) }
  const { ranges, texts } = concernsOf(findings)
  const touched = touchedBy(model, findings)
  const entry = {
    fingerprint: fingerprint(`root cause|${key}`),
    severity,
    code,
    sentence: findings.length === 1 ? sentence : `${decidesText(named)}: ${FINDINGS[code].effect}.`,
    roots,
    codes: codesOf(findings),
    findings: findings.length,
    ...touched,
    concerns: concernTexts(model, ranges, texts),
    unlike: code === 'odd-unlike' ? [] : unlikeTexts(model, objects),
  }
  return { entry, weight: touched.hosts * (1 + sizeOf(ranges)) }
}

function codesOf(findings: readonly ToldFinding[]): RootCause['codes'] {
  const counts = new Map<FindingCode, number>()
  for (const { code } of findings) counts.set(code, (counts.get(code) ?? 0) + 1)
  return [...counts]
    .map(([code, findings]) => ({ code, findings }))
    .sort((a, b) => b.findings - a.findings || (a.code < b.code ? -1 : 1))
}

/**
 * The subnets and hosts that findings touch: a finding of a subnet touches that one, else those it
 * names; of their hosts those it names, else all.
 */
function touchedBy(
  model: Model,
  findings: readonly ToldFinding[],
): Pick<RootCause, 'subnets' | 'hosts'> {
  const subnets = new Set<number>()
  const hosts = new Set<number>()
  for (const { anchor, objects } of findings) {
    const concerned = anchor.startsWith('subnets/') ? [anchor] : objects
    const named = numbersOf(model, 'interfaces', objects)
    const own = numbersOf(model, 'subnets', concerned)
    for (const index of named) {
      hosts.add(index)
      subnets.add(model.interfaces[index]!.subnet)
    }
    for (const index of own) {
      subnets.add(index)
      if (named.length === 0) for (const host of model.subnets[index]!.interfaces) hosts.add(host)
    }
  }
  return { subnets: subnets.size, hosts: hosts.size }
}

/** So many things of those that are exposed or lost are told. */
const MOST_CONCERNS = 6

/** The destinations or sources that findings are about, and what else they name, such as ports. */
function concernsOf(findings: readonly ToldFinding[]): { ranges: RangeSet; texts: string[] } {
  const texts = new Set(findings.flatMap(({ evidence }) => evidence.ranges))
  texts.delete('and more')
  const prefixes: Prefix[] = []
  const others: string[] = []
  for (const text of texts) {
    const prefix = prefixOfText(text)
    if (prefix) prefixes.push(prefix)
    else others.push(text)
  }
  return { ranges: rangeSetOf(prefixes), texts: others }
}

function concernTexts(model: Model, ranges: RangeSet, others: readonly string[]): string[] {
  const owners = byOwner(model, ranges).map(({ owner }) => ownerText(owner))
  const all = [...owners, ...others]
  return all.length <= MOST_CONCERNS
    ? all
    : [...all.slice(0, MOST_CONCERNS), `${all.length - MOST_CONCERNS} more`]
}

/** How large ranges are: the bits that count their addresses, those of IPv6 brought to 32. */
function sizeOf(ranges: RangeSet): number {
  const count = (family: Family): number =>
    ranges.reduce(
      (sum, { from, to }) =>
        familyOf(from) === family ? sum + Number(to) - Number(from) + 1 : sum,
      0,
    )
  return Math.max(Math.log2(1 + count(4)), Math.log2(1 + count(6)) / 4)
}

/** A prefix or an address as a prefix; null for what is neither. */
function prefixOfText(text: string): Prefix | null {
  if (text.includes('/')) {
    const parsed = parsePrefix(text)
    return isPrefixFault(parsed) ? null : parsed
  }
  const address = parseAddress(text)
  return address === null ? null : hostPrefix(address)
}

const byWeight = (a: Weighed, b: Weighed): number =>
  SEVERITIES.indexOf(a.entry.severity) - SEVERITIES.indexOf(b.entry.severity) ||
  b.weight - a.weight ||
  b.entry.findings - a.entry.findings ||
  (a.entry.fingerprint < b.entry.fingerprint ? -1 : 1)
