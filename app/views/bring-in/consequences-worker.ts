import {
  budgetOf,
  foresightOf,
  readEstate,
  type Foreseen,
  type Foresight,
  type SourceFile,
} from '@salt-trail/core'

/** What the page asks of the worker that computes the consequences of a change. */
export type Asked =
  | { readonly kind: 'begin'; readonly files: readonly SourceFile[] }
  | { readonly kind: 'change'; readonly number: number; readonly files: readonly SourceFile[] }

/** What it is told. */
export type Told =
  | { readonly kind: 'too-large'; readonly subnets: number }
  | { readonly kind: 'failed'; readonly message: string }
  | {
      readonly kind: 'follows'
      readonly number: number
      readonly milliseconds: number
      readonly consequences: Foreseen
    }

/** Larger estates are left to the server, which has more memory. */
const MOST_SUBNETS = 2_000
/** Packets are compared no longer than this; what is left out then is told. */
const MOST_MILLISECONDS = 3_000
const MOST_PAIRS_FORESEEN = 20_000

let foresight: Foresight | null = null

const tell = (told: Told): void => self.postMessage(told)

self.onmessage = ({ data }: MessageEvent<Asked>): void => {
  try {
    const { estate } = readEstate([...data.files])
    if (!estate) return
    if (data.kind === 'begin') {
      if (estate.subnets.size > MOST_SUBNETS)
        tell({ kind: 'too-large', subnets: estate.subnets.size })
      else foresight = foresightOf(estate)
      return
    }
    if (!foresight) return
    const begun = performance.now()
    const end = begun + MOST_MILLISECONDS
    const budget = budgetOf(MOST_PAIRS_FORESEEN, () => performance.now() > end)
    const consequences = foresight.foresee(estate, budget)
    tell({
      kind: 'follows',
      number: data.number,
      milliseconds: performance.now() - begun,
      consequences,
    })
  } catch (error) {
    tell({ kind: 'failed', message: error instanceof Error ? error.message : String(error) })
  }
}
