import { useAnswer } from '~/api/useAnswer'
import { decidingBranch } from '~/views/trace/deciding-branch'
import type { AskedQuestion } from './useAsk'

/** The trace that shows something: the branch that decides it. */
export function useShown(question: () => AskedQuestion | null) {
  const estate = useEstate()
  const { answer, failure } = useAnswer<'trace'>(() => {
    const asked = question()
    return asked === null || estate.fixedBase === null
      ? null
      : {
          base: estate.fixedBase,
          path: 'trace',
          body: { protocol: 'tcp', port: 443, ...asked, continue: true },
        }
  })
  const branch = computed(() => (answer.value ? decidingBranch(answer.value) : null))
  return { branch, failure }
}
