/** A moment in the reader's own time: the hour today, else the day. */
export function when(iso: string): string {
  const moment = new Date(iso)
  const today = new Date().toDateString() === moment.toDateString()
  return today
    ? moment.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
    : moment.toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
}
