import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { joinQuestion, type QuestionText } from '~/questions/question-text'

const KEPT = 40

/** The question in the bar and those asked before, the latest first; kept by the browser. */
export const useQuestions = defineStore('questions', () => {
  const text = ref<QuestionText>({ from: '', to: '', over: '' })
  const history = useLocalStorage<QuestionText[]>('salt-trail.questions', [])

  function remember(question: QuestionText): void {
    const written = joinQuestion(question)
    history.value = [
      question,
      ...history.value.filter((known) => joinQuestion(known) !== written),
    ].slice(0, KEPT)
  }
  return { text, history, remember }
})
