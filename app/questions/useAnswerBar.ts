import { readAsked, withPasted } from './asked'
import { showEnd } from './question-text'
import { overRead } from './useOverReader'

/**
 * Answers the question in the bar: its trace is shown. Returns the part that cannot be asked; the
 * store then holds why.
 */
export function useAnswerBar(): () => Promise<'from' | 'to' | 'over' | null> {
  const estate = useEstate()
  const questions = useQuestions()
  const router = useRouter()
  return async () => {
    const choices = estate.outline?.ends ?? []
    questions.refusal = null
    questions.text = withPasted(questions.text)
    const asked = await readAsked(questions.text, choices, overRead)
    if ('message' in asked) {
      questions.refusal = asked
      return asked.part
    }
    const [from, to] = [showEnd(asked.from, choices), showEnd(asked.to, choices)]
    questions.text = { from, to, over: asked.over }
    questions.remember({ ...questions.text })
    await router.push({ path: `/${estate.slug}/${estate.revision}/trace`, query: { ...asked } })
    return null
  }
}
