import { showEnd } from '~/questions/question-text'

export interface AskedQuestion {
  readonly from: string
  readonly to: string
  readonly protocol?: string | number
  readonly port?: number | null
  readonly sourcePort?: number | null
}

/**
 * Asks a question from another view: it stands in the bar, is remembered, and its trace is shown.
 */
export function useAsk(): (question: AskedQuestion) => void {
  const estate = useEstate()
  const router = useRouter()
  const questions = useQuestions()
  return ({ from, to, protocol = 'tcp', port = 443 }) => {
    const ends = estate.outline?.ends ?? []
    const over = port === null ? String(protocol) : `${protocol} ${port}`
    questions.text = { from: showEnd(from, ends), to: showEnd(to, ends), over }
    questions.remember({ ...questions.text })
    void router.push({
      path: `/${estate.slug}/${estate.revision}/trace`,
      query: { from, to, over },
    })
  }
}
