import {
  apply,
  budgetOf,
  checkEstate,
  complete,
  foresightOf,
  readEstate,
  type Change,
  type Estate,
  type ForeseenSoFar,
  type Foresight,
  type Problem,
  type SourceFile,
  type ToldPackets,
} from '@salt-trail/core'
import { MOST_SUBNETS_FORESEEN } from './limits'

/** Another state of the estate: files in place of it, or changes made in it. */
export type NextState = { readonly files: readonly SourceFile[] } | { readonly change: Change }

/** What the page asks of the worker that computes the consequences of a change. */
export type Asked =
  | { readonly kind: 'begin'; readonly document: string }
  | { readonly kind: 'change'; readonly number: number; readonly next: NextState }

/** What it is told. */
export type Told =
  | { readonly kind: 'too-large'; readonly subnets: number }
  | { readonly kind: 'failed'; readonly number: number; readonly message: string }
  | { readonly kind: 'invalid'; readonly number: number; readonly problems: readonly Problem[] }
  | {
      readonly kind: 'follows'
      readonly number: number
      readonly milliseconds: number
      readonly consequences: Follows
    }

/** What follows from a change, as far as it is known. */
export type Follows = ForeseenSoFar

/** Packets are compared no longer than this; what is left out then is told. */
const MOST_MILLISECONDS = 3_000
const MOST_PAIRS_FORESEEN = 20_000
/** Packets are compared for so long at a time, then a newer change comes first. */
const TURN_MILLISECONDS = 50

let known: { readonly first: Estate; readonly foresight: Foresight } | null = null

const tell = (told: Told): void => self.postMessage(told)

/** The number of the change that was asked for last. */
let latest = 0

self.onmessage = async ({ data }: MessageEvent<Asked>): Promise<void> => {
  try {
    if (data.kind === 'begin') begin(data.document)
    else await change(data.number, data.next)
  } catch (error) {
    const number = data.kind === 'change' ? data.number : 0
    tell({
      kind: 'failed',
      number,
      message: error instanceof Error ? error.message : String(error),
    })
  }
}

function begin(document: string): void {
  const { estate } = readEstate([{ name: 'estate.json', text: document }])
  if (!estate) return
  if (estate.subnets.size > MOST_SUBNETS_FORESEEN)
    tell({ kind: 'too-large', subnets: estate.subnets.size })
  else known = { first: estate, foresight: foresightOf(estate) }
}

/** Tells all but packets at once, and the packets unless a newer change came meanwhile. */
async function change(number: number, next: NextState): Promise<void> {
  if (!known) return
  latest = number
  const begun = performance.now()
  const estate = stateAfter(number, known.first, next)
  if (!estate) return
  const end = begun + MOST_MILLISECONDS
  const budget = budgetOf(MOST_PAIRS_FORESEEN, () => performance.now() > end)
  const { atOnce, packets: turns } = known.foresight.foreseeInTurns(estate, budget)
  const follow = (packets: ToldPackets | null): void =>
    tell({
      kind: 'follows',
      number,
      milliseconds: performance.now() - begun,
      consequences: { ...atOnce, packets },
    })
  follow(null)
  for (;;) {
    await newerFirst()
    if (latest !== number) return
    const pause = performance.now() + TURN_MILLISECONDS
    do {
      const turn = turns.next()
      if (turn.done) return follow(turn.value)
    } while (performance.now() < pause)
  }
}

/** Lets the messages that wait be taken. */
const newerFirst = (): Promise<void> => new Promise((resolve) => setTimeout(resolve))

/** The state that is foreseen; null where there is none, which is told. */
function stateAfter(number: number, first: Estate, next: NextState): Estate | null {
  if ('files' in next) return readEstate([...next.files]).estate
  const made = apply(first, complete(first, next.change))
  if (!made.ok) {
    const { path, message } = made.failure
    tell({ kind: 'failed', number, message: `${path}: ${message}` })
    return null
  }
  const problems = checkEstate(made.estate, first).filter(({ severity }) => severity === 'error')
  if (problems.length === 0) return made.estate
  tell({ kind: 'invalid', number, problems })
  return null
}
