import { expect, test, type Page } from '@playwright/test'
import { demoCopy } from './draft-steps'

/**
 * The ten questions of the job, each answered on screen within three actions from any view. An
 * action is a key that leads somewhere, a text typed into a field and settled, or a click.
 */
const HEAD = '/halite-ferries/head'
const MOST_ACTIONS = 3

interface Hand {
  readonly press: (key: string) => Promise<void>
  /** A text; then Enter, or the choice of what it found. */
  readonly type: (text: string, found?: { name: RegExp }) => Promise<void>
  readonly fill: (label: string, text: string) => Promise<void>
  readonly choose: (label: string, option: string) => Promise<void>
  readonly click: (role: 'button' | 'link' | 'option', name: string | RegExp) => Promise<void>
}

/** What a person does on a page, counted. */
function counted(page: Page): { hand: Hand; actions: () => number } {
  let actions = 0
  const counting =
    <A extends readonly unknown[]>(act: (...given: A) => Promise<unknown>) =>
    async (...given: A): Promise<void> => {
      actions += 1
      await act(...given)
    }
  const main = page.getByRole('main')
  return {
    actions: () => actions,
    hand: {
      press: counting((key) => page.keyboard.press(key)),
      // A text that is typed is settled by Enter, in one action.
      type: counting(async (text: string, found?: { name: RegExp }) => {
        await page.keyboard.type(text)
        if (found) await page.getByRole('option', found).click()
        else await page.keyboard.press('Enter')
      }),
      fill: counting(async (label: string, text: string) => {
        await main.getByLabel(label, { exact: true }).fill(text)
        await main.getByLabel(label, { exact: true }).press('Enter')
      }),
      choose: counting((label: string, option: string) =>
        main.getByLabel(label).first().selectOption(option),
      ),
      click: counting((role, name) => page.getByRole(role, { name }).first().click()),
    },
  }
}

interface Asked {
  readonly asks: string
  readonly begins: string
  readonly act: (hand: Hand) => Promise<void>
  /** What stands on screen once it is answered. */
  readonly answer: (page: Page) => Promise<void>
}

const says = (page: Page, text: string | RegExp): Promise<void> =>
  expect(page.getByRole('main')).toContainText(text)

const QUESTIONS: readonly Asked[] = [
  {
    asks: 'which subnets reach the internet directly, by either family',
    begins: 'findings',
    act: async ({ press, fill }) => {
      await press('1')
      await fill('with', 'direct')
    },
    answer: async (page) => {
      const rows = page.getByRole('grid').getByRole('row')
      await expect(rows.filter({ hasText: /^web-1/ })).toContainText('ticketing-door')
      await expect(rows.filter({ hasText: /^roster-1/ })).toContainText('built-in door')
      await expect(rows.filter({ hasText: /^cards-1/ })).toHaveCount(0)
    },
  },
  {
    asks: 'why can this host not, and the least fix',
    begins: 'map',
    act: async ({ press, type }) => {
      await press('/')
      await type('seat-plan-2 > internet tcp 443')
    },
    answer: async (page) => {
      await says(page, 'No route at ticketing-default covers the destination')
      await says(page, /associate ticketing-app-2 with ticketing-private-2/i)
    },
  },
  {
    asks: 'from which address does a partner see us, and can it change',
    begins: 'exits',
    act: async ({ press, choose }) => {
      await press('7')
      await choose('seen by', 'fuel-broker')
    },
    answer: async (page) => {
      await says(page, '203.0.113.11')
      await says(page, 'reserved')
    },
  },
  {
    asks: 'does traffic between two networks pass the wall both ways',
    begins: 'findings',
    act: async ({ press, type }) => {
      await press('/')
      await type('roster-1 > tide-gauge-1 tcp 8443')
    },
    answer: async (page) => {
      await says(page, 'harbour-wall')
      await says(page, 'One way: the answer is lost')
      await says(page, 'crew-telemetry')
    },
  },
  {
    asks: 'what can be reached from outside on an administrative port',
    begins: 'exits',
    act: ({ press }) => press('4'),
    answer: async (page) => {
      const first = page.getByRole('region', { name: 'What is reached from outside' }).locator('th')
      await expect(first.filter({ hasText: 'tcp 22' })).toContainText('remote administration')
      await says(page, 'jump-1')
    },
  },
  {
    asks: 'which route wins here for this address, and why not the other',
    begins: 'exits',
    act: async ({ press, fill }) => {
      await press('3')
      await fill('subnet', 'crew-roster-1')
      await fill('where is', '10.52.1.9')
    },
    answer: (page) => says(page, '10.52.0.0/16'),
  },
  {
    asks: 'what goes down with this zone',
    begins: 'exits',
    act: async ({ press, type }) => {
      await press('/')
      await type('zone north-1', { name: /go to north-1 zone/ })
    },
    answer: async (page) => {
      await expect(page).toHaveURL(/failing=zone(:|%3A)north-1/)
      await expect(page.getByText('What follows from it').first()).toBeVisible({ timeout: 60_000 })
      await expect(page.getByRole('main')).toContainText(/Cut \d/, { timeout: 60_000 })
    },
  },
  {
    asks: 'what did deleting leave behind',
    begins: 'trace',
    act: async ({ press, click }) => {
      await press('5')
      await click('button', 'left behind')
    },
    answer: async (page) => {
      await says(page, 'hole-dead-target')
      await says(page, 'No subnet uses ticketing-private-2')
    },
  },
  {
    asks: 'how many addresses are left, and which is the last usable',
    begins: 'exits',
    act: async ({ press, click, fill }) => {
      await press('7')
      await click('button', 'space')
      await fill('with', 'ticketing-app-1')
    },
    answer: async (page) => {
      const row = page.getByRole('row', { name: /^ticketing-app-1 10/ })
      await expect(row).toContainText('10.40.19.254')
      await expect(row).toContainText('1,018 of 1,019')
    },
  },
  {
    asks: 'can two segments ever talk',
    begins: 'findings',
    act: async ({ press, click }) => {
      await press('4')
      await click('link', 'among networks')
      await click('button', 'hub to crew: –')
    },
    answer: (page) => says(page, 'No packet gets from the one to the other'),
  },
]

for (const { asks, begins, act, answer } of QUESTIONS)
  test(asks, async ({ page }) => {
    await page.addInitScript(() => localStorage.setItem('salt-trail.path-left', 'true'))
    const head = asks.includes('zone') ? `/${await demoCopy(page)}/head` : HEAD
    await page.goto(`${head}/${begins}`)
    await page.waitForLoadState('networkidle')
    const { hand, actions } = counted(page)
    await act(hand)
    await answer(page)
    expect(actions()).toBeLessThanOrEqual(MOST_ACTIONS)
  })
