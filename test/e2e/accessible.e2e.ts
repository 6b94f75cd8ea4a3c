import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { VIEWS } from './views'

// Views are only looked at, so several are at a time.
test.describe.configure({ mode: 'parallel' })

/** What axe complains of on the page as it is now. */
async function complaints(axe: AxeBuilder): Promise<string[]> {
  const { violations } = await axe.analyze()
  return violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)
}

for (const [name, path] of Object.entries(VIEWS)) {
  test(`axe finds nothing on ${name}`, async ({ page }) => {
    await page.goto(path)
    await expect(page.getByRole('heading', { level: 1 }).first()).toBeAttached()
    expect(await complaints(new AxeBuilder({ page })), 'light').toEqual([])
    // The themes differ in colours only, so the second is asked for contrast alone.
    await page.emulateMedia({ colorScheme: 'dark' })
    const contrast = new AxeBuilder({ page }).withRules(['color-contrast'])
    expect(await complaints(contrast), 'dark').toEqual([])
  })
}

test('axe finds nothing while files are mended', async ({ page }) => {
  await page.goto('/bring-in')
  await page.getByRole('button', { name: 'Begin with an empty one' }).click()
  await page.getByRole('textbox', { name: /Text of/ }).fill('format: salt-trail/1\nnmae: x\n')
  await expect(page.getByText('did you mean "name"?')).toBeVisible()
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([])
})
