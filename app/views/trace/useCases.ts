import type { Case } from '@salt-trail/core'
import { useAnswer } from '~/api/useAnswer'
import { overWords } from '~/questions/over'
import { usePortNames } from '~/questions/port-names'
import { useOverReader } from '~/questions/useOverReader'
import { chosenCase } from '~/views/trace/cases'

/**
 * The question in the page's address, how it fares by family and port, and the one of these cases
 * that is shown whole.
 */
export function useCases() {
  const estate = useEstate()
  const readOver = useOverReader()
  const names = usePortNames()
  const from = textInAddress('from', 'push')
  const to = textInAddress('to', 'push')
  const over = textInAddress('over', 'push', 'tcp 443')
  const family = textInAddress('family', 'replace')
  const port = textInAddress('port', 'replace')
  const query = computed(() => ({ from: from.value, to: to.value, over: over.value }))
  const isAsked = computed(() => from.value !== '' && to.value !== '')
  const transport = computed(() => readOver(over.value))

  const { answer, failure, error, isLoading } = useAnswer<'cases'>(() => {
    const read = transport.value
    if (!isAsked.value || estate.fixedBase === null) return null
    if (read === null || typeof read === 'string') return null
    const { protocol, ports, sourcePort } = read
    const { from: begins, to: ends } = query.value
    return {
      base: estate.fixedBase,
      path: 'cases',
      body: { from: begins, to: ends, protocol, ports, sourcePort },
    }
  })
  const chosen = computed(() =>
    chosenCase(answer.value?.cases ?? [], { family: family.value, port: port.value }),
  )
  /** What is asked for the chosen case. */
  const question = computed(() => {
    const one = chosen.value
    if (one === null || estate.fixedBase === null) return null
    const { protocol, port: first, sourcePort } = one.question
    const isOneOfMany = (answer.value?.cases.length ?? 0) > 1
    const { from: begins, to: ends } = query.value
    return {
      base: estate.fixedBase,
      body: {
        ...{ from: begins, to: ends, protocol, port: first, sourcePort },
        ...(isOneOfMany ? { family: one.family } : {}),
      },
    }
  })
  function choose(one: Case): void {
    family.value = String(one.family)
    port.value = one.ports === null ? '' : String(one.ports.from)
  }
  return {
    query,
    isAsked,
    cases: answer,
    chosen,
    choose,
    question,
    failure: computed(() =>
      typeof transport.value === 'string' ? transport.value : (failure.value ?? ''),
    ),
    error,
    isLoading,
    /** What it goes over, in words: `TCP port 22, ssh`. */
    overSays: computed(() => {
      const read = transport.value
      return read === null || typeof read === 'string' ? over.value : overWords(read, names.value)
    }),
  }
}
