/** What a search in steps says in the end. Runs all of its steps at once. */
export function lastOf<T>(steps: Generator<unknown, T>): T {
  for (;;) {
    const step = steps.next()
    if (step.done === true) return step.value
  }
}
