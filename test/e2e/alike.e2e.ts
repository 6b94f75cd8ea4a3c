import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { generateShape } from '../../scripts/generator/shapes'

/** An estate of a hub and spokes, of which one in ten lacks a route; analysed. */
async function star(page: Page): Promise<string> {
  const text = JSON.stringify({
    ...generateShape('star', 120).estate,
    name: 'Spokes that are alike',
  })
  const made = await page.request.post('/api/estates', {
    data: { files: [{ name: 'star.json', text }] },
  })
  const { slug } = (await made.json()) as { slug: string }
  const state = async (): Promise<string> => {
    const status = await page.request.get(`/api/estates/${slug}/head/analysis`)
    return ((await status.json()) as { state: string }).state
  }
  await expect.poll(state, { timeout: 60_000 }).toBe('done')
  return slug
}

test('rows and marks of networks that are alike are one, and what differs stands out', async ({
  page,
}) => {
  const slug = await star(page)
  await page.goto(`/${slug}/head/exits`)
  const most = page.getByRole('row', { name: /^spoke-\d+ and \d\d like it 4 subnets each/ })
  await expect(most.first()).toBeVisible()
  await expect(page.getByText(/unlike most: no route to 10\.0\.0\.0\/8/).first()).toBeVisible()
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations).toEqual([])

  // A row that stands for several is selected with all of them, and opened by a key.
  await page.getByRole('grid').focus()
  for (let down = 0; down < 2; down++) await page.keyboard.press('ArrowDown')
  await page.keyboard.press('x')
  await expect(page.getByText(/^\d+ selected/)).not.toHaveText(/^1 selected/)
  await page.keyboard.press('o')
  await expect(page).toHaveURL(/opened=spoke-/)
  await expect(page.getByRole('button', { name: 'fold with its likes' }).first()).toBeVisible()
  await page.getByLabel('alike as one').uncheck()
  await expect(page.getByText(/and \d+ like it/)).toHaveCount(0)

  // Who comes to one subnet sees its own row.
  await page.goto(`/${slug}/head/exits?at=spoke-9-s1 internet`)
  await expect(page.getByRole('row', { name: /^spoke-9 10\./ })).toBeVisible()

  await page.goto(`/${slug}/head/map`)
  await page.getByRole('button', { name: /^spoke-\d+ and \d\d like it/ }).click()
  const about = page.getByRole('complementary')
  await expect(about.getByRole('heading', { name: 'Stands for' })).toBeVisible()
  await about.getByRole('button', { name: 'unfold' }).click()
  await expect(page.getByRole('button', { name: /^spoke-9 / })).toBeVisible()

  await page.goto(`/${slug}/head/findings`)
  await expect(page.getByText(/otherwise alike/).first()).toBeVisible()
})

test('of many networks those that can be sent the same are one row, which opens', async ({
  page,
}) => {
  const slug = await star(page)
  await page.goto(`/${slug}/head/ways-in?show=networks`)
  // The hub has no hosts; the first network that has some is shown.
  await expect(page.getByLabel('from network')).toHaveValue('spoke-1')
  const among = page.getByRole('region', { name: 'Networks among each other' })
  await expect(among.getByRole('row', { name: /^no hosts spoke-1 to hub/ })).toBeVisible({
    timeout: 60_000,
  })
  const more = among.getByRole('button', { name: /^and \d+ more$/ }).first()
  await more.click()
  await among.getByRole('button', { name: /^spoke-1 to spoke-9: / }).click()
  await expect(page.getByRole('complementary')).toContainText('spoke-1 to spoke-9')
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations).toEqual([])
})
