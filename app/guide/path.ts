/** One step of the short path through the demo: what to look at, and where. */
export interface Step {
  readonly title: string
  readonly says: string
  /** The view, after the estate and its revision. */
  readonly view: string
  readonly query: Readonly<Record<string, string>>
}

/** Three faults of the demo, the most severe first, each from what is seen to what causes it. */
export const STEPS: readonly Step[] = [
  {
    title: 'By which way does everything leave?',
    says: 'A row for each subnet, a column for each kind of destination; a cell says by what its traffic leaves first. Marks tell leaks (a drop), black holes (a ringed disc) and weak spots (a wave). Here are the rows with problems.',
    view: 'exits',
    query: { only: 'problems' },
  },
  {
    title: 'First fault: a translator that is stuck',
    says: 'The gauges’ cells to the internet say “stuck NAT”. The trace tells why: the packet comes to nat-telemetry, and the subnet it sits in has no route to the internet itself. One missing route loses everything behind it.',
    view: 'trace',
    query: { from: 'interface:tide-gauge-1', to: 'internet', over: 'tcp 443' },
  },
  {
    title: 'Second fault: a table that nobody associated',
    says: 'app-2 should leave as app-1 does. Its look-up asks the network’s default table, which is empty; the table that was made for it is used by no subnet. Beside it stands app-1, which works: the first difference is marked.',
    view: 'trace',
    query: {
      from: 'interface:seat-plan-2',
      to: 'internet',
      over: 'tcp 443',
      beside: 'seat-plan-1',
    },
  },
  {
    title: 'Third fault: round the firewall',
    says: 'roster-1 goes to the gauge through the harbour wall, the answer comes straight back. The wall sees half a connection and forgets it. Both ways lie on the map.',
    view: 'map',
    query: { from: 'interface:roster-1', to: 'interface:tide-gauge-1', over: 'tcp 8443' },
  },
  {
    title: 'Everything that is wrong, and since when',
    says: 'Findings lists the rest with evidence and the smallest mend; Revisions shows which of them came with which change. That was the path: bring in an estate of your own, or ask something in the bar above.',
    view: 'revisions',
    query: {},
  },
]
