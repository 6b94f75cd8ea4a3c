/** Whether a key was meant for a field rather than for the view. */
export function isTyping(target: EventTarget | null): boolean {
  const element = target as HTMLElement | null
  return (
    element !== null &&
    (/^(INPUT|TEXTAREA|SELECT)$/.test(element.tagName) || element.isContentEditable)
  )
}
