/** The colours of the theme as a canvas takes them; they follow the theme. */
export function useChartColours() {
  const account = useAccount()
  const colours = shallowRef(read())
  watch(
    () => account.theme,
    () => void nextTick(() => (colours.value = read())),
  )
  return colours
}

const NAMES = ['ink', 'soft', 'rule', 'hair', 'leak', 'hole', 'weak', 'line', 'focus'] as const

function read(): Record<(typeof NAMES)[number], string> {
  const style = getComputedStyle(document.documentElement)
  return Object.fromEntries(
    NAMES.map((name) => [name, style.getPropertyValue(`--${name}`).trim()]),
  ) as Record<(typeof NAMES)[number], string>
}
