import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { joinQuestion, type EndChoice, type QuestionText } from '~/questions/question-text'

const KEPT = 40

/** Why the question in the bar cannot be asked, and what may be meant. */
export interface BarRefusal {
  readonly part: 'from' | 'to' | 'over'
  readonly message: string
  readonly candidates: readonly EndChoice[]
}

/** The question in the bar and those asked before, the latest first; kept by the browser. */
export const useQuestions = defineStore('questions', () => {
  const text = ref<QuestionText>({ from: '', to: '', over: '' })
  const history = useLocalStorage<QuestionText[]>('salt-trail.questions', [])
  /** Set while the bar holds a question that cannot be asked: its last answer is none to it. */
  const refusal = shallowRef<BarRefusal | null>(null)

  function remember(question: QuestionText): void {
    const written = joinQuestion(question)
    history.value = [
      question,
      ...history.value.filter((known) => joinQuestion(known) !== written),
    ].slice(0, KEPT)
  }
  return { text, history, refusal, remember }
})
