import type { Operation } from '@salt-trail/core'

/** One step of the short path through the demo: what to look at, and where. */
export interface Step {
  readonly title: string
  readonly says: string
  /** The view, after the estate and its revision. */
  readonly view: string
  readonly query: Readonly<Record<string, string>>
  /** Changes that are made in a draft of their own when the step is reached. */
  readonly draft?: {
    readonly name: string
    readonly changes: readonly { readonly what: string; readonly patch: readonly Operation[] }[]
  }
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
    says: 'Findings lists the rest with evidence and the smallest mend; Revisions shows which of them came with which change.',
    view: 'revisions',
    query: {},
  },
  {
    title: 'Three of them mended, in a draft',
    says: 'A draft tries changes before anything changes. This one mends the stuck translator, the table that nobody associated and the list at the edge; beside them stands what they open and cut, over all packets. Take one back, edit an object, let a zone fail. Two more drafts wait in the list. That was the path: bring in an estate of your own, or ask something in the bar above.',
    view: 'draft',
    query: {},
    draft: {
      name: 'Three faults mended',
      changes: [
        {
          what: 'lead the default route of telemetry-default to telemetry-door',
          patch: [
            {
              op: 'add',
              path: '/routeTables/telemetry-default/routes',
              value: [{ to: '0.0.0.0/0', via: { gateway: 'telemetry-door' } }],
            },
          ],
        },
        {
          what: 'associate ticketing-app-2 with ticketing-private-2',
          patch: [
            {
              op: 'add',
              path: '/subnets/ticketing-app-2/routeTable',
              value: 'ticketing-private-2',
            },
          ],
        },
        {
          what: 'allow tcp 1024-65535 from the internet in web-2-list',
          patch: [
            {
              op: 'add',
              path: '/ruleSets/web-2-list/rules/0',
              value: {
                order: 99,
                action: 'allow',
                direction: 'in',
                protocol: 'tcp',
                ports: ['1024-65535'],
                peers: ['internet'],
              },
            },
          ],
        },
      ],
    },
  },
]
