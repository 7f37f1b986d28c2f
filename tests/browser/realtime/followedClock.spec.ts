import { expect, test } from '../fixtures'
import { openDemo, reaches } from '../helpers'

test('the other tab follows the clock that is sent over the cable, and stops with it', async ({ page }) => {
  await openDemo(page)
  await page.getByText('Clock', { exact: true }).click()
  await page.getByRole('checkbox', { name: 'cable Quayside' }).check()
  const sender = await page.context().newPage()
  await sender.goto('/programs/sender?cable=Quayside')
  await expect(sender.getByLabel('cable', { exact: true })).toHaveValue('Quayside')
  await sender.getByRole('checkbox', { name: 'follow the clock on the cable' }).check()
  await sender.getByRole('button', { name: 'Send' }).click()
  await expect(sender.getByTestId('sender-state')).toHaveText('waiting for a clock')
  await page.bringToFront()
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(sender.getByTestId('sender-state')).toContainText(/playing at (91\.[89]|92\.[01])/, {
    timeout: 15_000,
  })
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(sender.getByTestId('sender-state')).toHaveText('waiting for a clock')
})

test('this tab follows a clock from another one: it plays and stops with it, and shows its tempo', async ({
  page,
  context,
}) => {
  await openDemo(page)
  // A second project in another tab is the master.
  const master = await context.newPage()
  await openDemo(master)
  await master.getByLabel('Tempo in quarters a minute').fill('132')
  await master.keyboard.press('Enter')
  await master.getByText('Clock', { exact: true }).click()
  await master.getByRole('checkbox', { name: 'cable Quayside' }).check()
  await page.bringToFront()
  await page.getByText('Clock', { exact: true }).click()
  await page.getByLabel('follow', { exact: true }).selectOption({ label: 'cable Quayside' })
  await master.bringToFront()
  await master.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(page.getByText(/The clock runs at 13[12]\.\d\d quarters a minute/)).toBeVisible({
    timeout: 15_000,
  })
  await reaches(page, 2)
  await master.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  await expect(page.getByText('waits for a clock')).toBeVisible()
})

test('the receiver shows what a track sends, channel and clock, and no note hangs after stop', async ({
  page,
}) => {
  await openDemo(page)
  const receiver = await page.context().newPage()
  await receiver.goto('/programs/receiver?cable=Quayside')
  await expect(receiver.getByLabel('cable', { exact: true })).toHaveValue('Quayside')
  await page.bringToFront()
  await page.getByRole('button', { name: 'Ways of Benno’s piano' }).click()
  await page.getByLabel('also sends to').selectOption({ label: 'cable Quayside' })
  await page.getByLabel('on channel').selectOption('9')
  await page.getByText('Clock', { exact: true }).click()
  await page.getByRole('checkbox', { name: 'cable Quayside' }).check()
  await expect(page.getByText('Every player reaches a track of their own.')).toBeVisible()
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect(receiver.getByTestId('receiver-clock')).toContainText(/clock runs at 9[12]\.\d/, {
    timeout: 15_000,
  })
  await expect(receiver.getByRole('row').nth(1)).toContainText('9')
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(receiver.getByTestId('receiver-total')).toContainText('none sounds now')
  await expect(receiver.getByTestId('receiver-clock')).toContainText('clock stopped')
  // The reader is gone: the cable is read by nobody, which is said.
  await receiver.close()
  await expect(page.getByRole('list', { name: 'Remarks on the wiring' })).toContainText(
    'Nobody reads the cable “Quayside”.',
  )
})
