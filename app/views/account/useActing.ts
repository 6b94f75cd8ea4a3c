import { failureText } from '~/api/failure-text'

/** Does one thing at a time; what goes wrong is told. */
export function useActing() {
  const failure = ref('')
  const isBusy = ref(false)
  async function act(work: () => Promise<void>): Promise<boolean> {
    isBusy.value = true
    failure.value = ''
    try {
      await work()
      return true
    } catch (error) {
      failure.value = failureText(error)
      return false
    } finally {
      isBusy.value = false
    }
  }
  return { failure, isBusy, act }
}
