import { expect, test } from '@jest/globals'
import { inApp } from './app'
import { useQuestions } from '~/stores/questions'

const question = (from: string) => ({ from, to: 'internet', over: 'tcp 443' })

test('questions are remembered, the latest first, each once', async () => {
  const { result: questions } = await inApp(useQuestions)
  for (const from of ['a', 'b', 'a']) questions.remember(question(from))
  expect(questions.history.map(({ from }) => from)).toEqual(['a', 'b'])
})

test('no more than forty are kept', async () => {
  const { result: questions } = await inApp(useQuestions)
  for (let at = 0; at < 50; at++) questions.remember(question(`h${at}`))
  expect(questions.history).toHaveLength(40)
  expect(questions.history[0]!.from).toBe('h49')
})
