import {
  casesOf,
  destinationsOf,
  entriesFrom,
  entriesOf,
  estateGraph,
  exitsTo,
  gatherSeen,
  hopsByOwner,
  hopsJson,
  hopsOf,
  isRefusal,
  MAP_SECTIONS,
  membersOf,
  moveIn,
  objectPage,
  problemsJson,
  proveExpectations,
  readEstate,
  readOnlooker,
  referencesOf,
  searchEstate,
  spaceOf,
  subnetSeenBy,
  trace,
  waysInOf,
  waysOut,
  type CasesQuestion,
  type Finding,
  type Model,
  type Move,
  type Question,
  type References,
  type Refusal,
  type SubnetModel,
  type SubnetSeen,
} from '@salt-trail/core'
import { outlineOf } from '../estates/outline'
import { Refused } from '../refused'
import { exposurePage, hostsBehind, talksOf } from './exposure'
import type { HeldModel } from './held'

const refusedQuestion = ({ code, message, part, candidates }: Refusal): Refused =>
  new Refused(422, code, message, { part, candidates })

function subnetIn(model: Model, id: string): SubnetModel {
  const subnet = model.subnets[model.index.subnets.get(id) ?? -1]
  if (!subnet)
    throw new Refused(404, 'no-such-subnet', `there is no subnet "${id}" in this revision`)
  return subnet
}

/** What is written is read together with the whole estate, while its thread does nothing else. */
const MOST_SUBNETS_PROVED = 2_000
/** The name by which problems speak of the text that was sent. */
const WRITTEN = 'what is written here'

/** A move that takes objects out one by one does so no longer than this: others are asking, too. */
const MOST_MILLISECONDS_MOVED = 3_000

/** Ports that fare alike are looked for no longer than this: others are asking, too. */
const MOST_MILLISECONDS_CASES = 1_000

/** References are gathered once for each model that is asked about. */
const gathered = new WeakMap<Model, References>()
function referencesIn(model: Model): References {
  const known = gathered.get(model) ?? referencesOf(model)
  gathered.set(model, known)
  return known
}

type Column = Parameters<typeof membersOf>[1]

/** Everything that is answered from the model of a revision, by name. Throws `Refused`. */
export const ANSWERS = {
  /** Nothing: it makes the model ready, since a revision that is shown is soon asked about. */
  ready: () => null,
  outline: ({ model }: HeldModel) => outlineOf(model, { withLikeness: false }),
  trace: ({ model }: HeldModel, { question }: { question: Question }) => {
    const answer = trace(model, question)
    if (isRefusal(answer)) throw refusedQuestion(answer)
    return answer
  },
  cases: ({ model }: HeldModel, { question }: { question: CasesQuestion }) => {
    const end = performance.now() + MOST_MILLISECONDS_CASES
    const answer = casesOf(model, question, () => performance.now() > end)
    if (isRefusal(answer)) throw refusedQuestion(answer)
    return answer
  },
  traces: ({ model }: HeldModel, { questions }: { questions: readonly Question[] }) =>
    questions.map((question) => {
      const answer = trace(model, question)
      return isRefusal(answer) ? { question, error: answer } : answer
    }),
  hops: ({ model, memo }: HeldModel, { subnet }: { subnet: string }) =>
    hopsByOwner(model, hopsJson(model, subnetIn(model, subnet), memo)),
  waysIn: ({ model, memo }: HeldModel, { subnet }: { subnet: string }) =>
    waysInOf(model, subnetIn(model, subnet), memo),
  exposure: ({ model }: HeldModel, asked: Parameters<typeof exposurePage>[1]) =>
    exposurePage(model, asked),
  behind: ({ model }: HeldModel, { host }: { host: string }) => hostsBehind(model, host),
  talks: ({ model }: HeldModel, { from }: { from: string }) => talksOf(model, from),
  /** The matrix turned to entering, for the rows in sight. */
  entries: (
    { model, memo }: HeldModel,
    { revision, subnets }: { revision: number; subnets: readonly string[] },
  ) => ({
    revision,
    rows: subnets.map((one) => entriesOf(model, subnetIn(model, one), memo)),
  }),
  /**
   * What a column of the matrix opens into, for the rows in sight: the members named, else the
   * first `most`.
   */
  members: (
    { model, memo }: HeldModel,
    {
      revision,
      column,
      subnets,
      named,
      most,
      entering,
    }: {
      revision: number
      column: Column
      subnets: readonly string[]
      named?: readonly string[]
      most: number
      entering: boolean
    },
  ) => {
    const all = membersOf(model, column)
    const members = named ?? all.slice(0, most)
    const unknown = members.find((one) => !all.includes(one))
    if (unknown !== undefined)
      throw new Refused(404, 'no-such-member', `"${unknown}" is no member of this column`)
    const rows = subnets.map((one) => {
      const subnet = subnetIn(model, one)
      if (entering) return { subnet: one, cells: entriesFrom(model, subnet, column, members, memo) }
      const tables = hopsOf(model, subnet, memo)
      return {
        subnet: one,
        cells: members.map((member) =>
          exitsTo(
            model,
            subnet,
            tables,
            column,
            destinationsOf(model, subnet, column, member),
            memo,
          ),
        ),
      }
    })
    return { revision, column, members, rows }
  },
  move: (
    { model }: HeldModel,
    { move, findings }: { move: Move; findings: readonly Finding[] },
  ) => {
    const end = performance.now() + MOST_MILLISECONDS_MOVED
    return moveIn(model, move, findings, () => performance.now() > end)
  },
  waysOut: (
    { model }: HeldModel,
    asked: { subnets: readonly string[]; addresses: readonly string[] },
  ) => ({ ways: waysOut(model, asked) }),
  object: ({ model }: HeldModel, { ref }: { ref: string }) => {
    const page = objectPage(model, referencesIn(model), ref)
    if (page === null) throw new Refused(404, 'no-such-object', `there is no ${ref} in this estate`)
    return page
  },
  search: ({ model }: HeldModel, { text, most }: { text: string; most: number }) => ({
    objects: searchEstate(model, text, most),
  }),
  /** The ids of every section, at most so many each; those that hold a text come with it. */
  objects: ({ model: { estate } }: HeldModel, { most, text }: { most: number; text: string }) => ({
    sections: MAP_SECTIONS.map((section) => {
      const ids = [...(estate[section] as ReadonlyMap<string, unknown>).keys()]
      const found = text === '' ? ids : ids.filter((id) => id.includes(text))
      return { section, ids: found.slice(0, most), more: Math.max(0, found.length - most) }
    }),
    zones: [...estate.regions].flatMap(([region, { zones = [] }]) =>
      zones.map((zone) => ({ region, zone })),
    ),
  }),
  map: (
    { model }: HeldModel,
    { revision, open }: { revision: number; open: readonly string[] },
  ) => ({ revision, ...estateGraph(model, open) }),
  space: ({ model }: HeldModel, { revision }: { revision: number }) => ({
    revision,
    networks: spaceOf(model),
  }),
  seenAs: ({ model, memo }: HeldModel, { revision, to }: { revision: number; to: string }) => {
    const onlooker = readOnlooker(model, to)
    if (onlooker === null)
      throw new Refused(
        422,
        'no-such-onlooker',
        `"${to}" is neither internet, party:ID of this estate, an address nor a prefix`,
      )
    const seen: SubnetSeen[] = []
    for (const index of model.index.subnets.values())
      seen.push(...subnetSeenBy(model, model.subnets[index]!, onlooker, memo))
    return { revision, to, ...gatherSeen(model, onlooker, seen) }
  },
  /**
   * Proves expectations over all packets before they are saved: those of the text, not those the
   * estate has.
   */
  prove: ({ model, memo, text }: HeldModel, { written }: { written: string }) => {
    if (model.index.subnets.size > MOST_SUBNETS_PROVED)
      throw new Refused(
        422,
        'too-large',
        `an estate of more than ${MOST_SUBNETS_PROVED.toLocaleString('en-GB')} subnets proves expectations when they are brought in, or on the command line`,
      )
    const saved = { name: 'the estate', text }
    const { estate, problems } = readEstate([saved, { name: WRITTEN, text: written }])
    const said = problemsJson(problems.filter((one) => one.file !== saved.name))
    if (!estate) return { ...said, expectations: null }
    const known = model.estate.expectations
    const own = new Map([...estate.expectations].filter(([one]) => !known.has(one)))
    return {
      ...said,
      expectations: proveExpectations(model, own, memo).map(({ trace: _, ...state }) => state),
    }
  },
} as const

export type Answers = typeof ANSWERS
export type AnswerName = keyof Answers
/** The parameters of a question, by its name. */
export type Asked<N extends AnswerName> =
  Parameters<Answers[N]> extends [HeldModel, infer A] ? A : Record<string, never>
