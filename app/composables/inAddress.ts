import { useRouteQuery } from '@vueuse/router'

/**
 * Whether a change leaves a step to go back to (`push`): choosing does, moving and typing do not.
 */
export type Step = 'push' | 'replace'

/**
 * A text of a view that stands in its address, so that a link shows the same and going back undoes
 * it. What is left out of the address is the fallback.
 */
export const textInAddress = (key: string, step: Step, fallback = '') =>
  useRouteQuery<string | null, string>(key, fallback, {
    mode: step,
    transform: {
      get: (text) => (typeof text === 'string' && text !== '' ? text : fallback),
      set: (text) => (text === '' ? fallback : text),
    },
  })

/** The same for one of some texts; any other text in the address is taken as the fallback. */
export const choiceInAddress = <T extends string>(
  key: string,
  step: Step,
  choices: readonly T[],
  fallback: NoInfer<T>,
) =>
  useRouteQuery<string | null, T>(key, fallback, {
    mode: step,
    transform: {
      get: (text) => choices.find((one) => one === text) ?? fallback,
      set: (choice) => choice,
    },
  })
