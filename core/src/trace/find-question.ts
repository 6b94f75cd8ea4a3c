import { type Address, type Family, familyOf } from '../address/address'
import type { Model } from '../model/model'
import { type FoundEnd, findEnd } from './ends'
import { type NameAnswer, resolveName, usable, addressTexts } from './names'
import { type Question, type Refusal, readEnd, isRefusal, refuse, type ReadEnd } from './question'

/** A question with its ends found: a name may stand for several addresses. */
export interface Asked {
  readonly from: FoundEnd
  readonly targets: readonly {
    readonly to: FoundEnd
    readonly src: Address
    readonly dst: Address
  }[]
  readonly name: { readonly asked: string; readonly answer: NameAnswer | null } | null
}

/** The ends and addresses of a question; a refusal where they cannot be found. */
export function findQuestion(model: Model, question: Question, wantsV6: boolean): Asked | Refusal {
  const readFrom = readEnd(question.from, 'from')
  if (isRefusal(readFrom)) return readFrom
  const readTo = readEnd(question.to, 'to')
  if (isRefusal(readTo)) return readTo
  if (readFrom.kind === 'name')
    return refuse(
      'from',
      'bad-question',
      'a name has no place to begin at; name the interface or the subnet',
    )
  if (readTo.kind === 'name') return findByName(model, readFrom, readTo.id, question.family)
  // An address that several networks have is taken from the other end's network: find the other end
  // first.
  const toFirst = readFrom.kind === 'address'
  const first = toFirst ? findEnd(model, readTo, 'to', -1) : findEnd(model, readFrom, 'from', -1)
  if (isRefusal(first) && first.code !== 'ambiguous') return first
  const firstNetwork = isRefusal(first) ? -1 : first.network
  const second = toFirst
    ? findEnd(model, readFrom, 'from', firstNetwork)
    : findEnd(model, readTo, 'to', firstNetwork)
  if (isRefusal(second)) return second
  const settled = isRefusal(first)
    ? findEnd(model, toFirst ? readTo : readFrom, toFirst ? 'to' : 'from', second.network)
    : first
  if (isRefusal(settled)) return settled
  const [from, to] = toFirst ? [second, settled] : [settled, second]
  const families = ([4, 6] as const).filter(
    (family) =>
      (question.family ?? family) === family &&
      from.addresses[family] !== null &&
      to.addresses[family] !== null,
  )
  if (families.length === 0) return noCommonFamily(question, from, to)
  const family: Family = wantsV6 && families.includes(6) ? 6 : families[0]!
  const fromInternet = from.end?.in === 'outside' && from.kind !== 'site'
  const dst =
    fromInternet && family === 4 && to.publicAddress !== null
      ? to.publicAddress
      : to.addresses[family]!
  return { from, targets: [{ to, src: from.addresses[family]!, dst }], name: null }
}

function findByName(
  model: Model,
  readFrom: ReadEnd,
  asked: string,
  only: Family | undefined,
): Asked | Refusal {
  const from = findEnd(model, readFrom, 'from', -1)
  if (isRefusal(from)) return from
  const answer = resolveName(model, from.network, asked)
  const has = {
    4: only !== 6 && from.addresses[4] !== null,
    6: only !== 4 && from.addresses[6] !== null,
  }
  if (!has[4] && !has[6])
    return refuse(
      'question',
      'no-common-family',
      `the sender has no IPv${only} address, so it cannot ask for ${asked} over IPv${only}`,
    )
  const addresses = answer === null ? [] : usable(answer, has)
  if (answer !== null && addresses.length === 0) {
    return refuse(
      'question',
      'no-common-family',
      `${asked} stands for ${addressTexts(answer.addresses).join(', ')}, and the sender has no address of that family`,
    )
  }
  const unknown: FoundEnd = {
    kind: 'name',
    end: null,
    network: -1,
    addresses: { 4: null, 6: null },
    publicAddress: null,
  }
  const source = (has[4] ? from.addresses[4] : null) ?? from.addresses[6]!
  if (answer === null)
    return {
      from,
      targets: [{ to: unknown, src: source, dst: typeof source === 'number' ? 0 : 0n }],
      name: { asked, answer },
    }
  const targets = addresses.map((dst) => {
    const found = findEnd(model, { kind: 'address', address: dst }, 'to', from.network)
    return {
      to: isRefusal(found) ? { ...unknown, kind: 'address' as const } : found,
      src: from.addresses[familyOf(dst)]!,
      dst,
    }
  })
  return { from, targets, name: { asked, answer } }
}

function noCommonFamily(question: Question, from: FoundEnd, to: FoundEnd): Refusal {
  const has = (end: FoundEnd): string =>
    [end.addresses[4] !== null && 'IPv4', end.addresses[6] !== null && 'IPv6']
      .filter(Boolean)
      .join(' and ') || 'no address'
  return refuse(
    'question',
    'no-common-family',
    `${question.from} has ${has(from)}, ${question.to} has ${has(to)}: no ${
      question.family === undefined ? 'packet' : `IPv${question.family} packet`
    } can have both as its ends`,
  )
}
