import { expect, type Page, testByItself as test } from '../fixtures'
import { goTo, newPiece, openDemo, reaches, saved, savedFile } from '../helpers'

const pages = ['/', '/project?id=nowhere', '/help', '/programs/sender', '/programs/receiver', '/not-there']

test('every page has a strict content policy, and none breaks it', async ({ page, request }) => {
  const violations: string[] = []
  await page.exposeFunction('violated', (words: string) => violations.push(words))
  await page.addInitScript(() =>
    document.addEventListener('securitypolicyviolation', (event) =>
      (globalThis as unknown as { violated(words: string): void }).violated(
        `${event.effectiveDirective} ${event.blockedURI} ${event.sourceFile}:${event.columnNumber}`,
      ),
    ),
  )
  for (const address of pages) {
    const response = await request.get(address)
    const policy = response.headers()['content-security-policy']!
    const of = (directive: string) =>
      policy.split('; ').find((part) => part.startsWith(`${directive} `)) ?? ''
    expect(of('script-src')).toMatch(/^script-src 'self' 'nonce-[\w=+/]+' 'wasm-unsafe-eval'$/)
    expect(of('default-src')).toBe("default-src 'self'")
    expect(of('worker-src')).toBe("worker-src 'self'")
    expect(of('connect-src')).toBe("connect-src 'self'")
    expect(of('frame-ancestors')).toBe("frame-ancestors 'none'")
    expect(of('object-src')).toBe("object-src 'none'")
    expect(of('base-uri')).toBe("base-uri 'none'")
    const nonce = /'nonce-([^']+)'/.exec(policy)![1]!
    const inline = [...(await response.text()).matchAll(/<script(?![^>]*\ssrc=)([^>]*)>/g)]
    for (const [, attributes] of inline) expect(attributes).toContain(`nonce="${nonce}"`)
  }
  const again = (await request.get('/')).headers()['content-security-policy']
  expect(again).not.toBe((await request.get('/')).headers()['content-security-policy'])
  // What the program does most: sound, engraving, files, effects with charts.
  await openDemo(page)
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await reaches(page, 1, 2)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await goTo(page, 'Score')
  await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
  await goTo(page, 'Deliver')
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(page.locator('[data-file$=".musicxml"]')).toBeVisible({ timeout: 60_000 })
  expect(violations).toEqual([])
})

test.describe('what is put into a page', () => {
  test.use({ expectedErrors: { words: [/Content Security Policy/i] } })

  test('as an inline script does not run', async ({ page }) => {
    await newPiece(page)
    await page.evaluate(() => {
      const script = document.createElement('script')
      script.textContent = 'globalThis.ranInline = true'
      document.body.append(script)
    })
    expect(await page.evaluate(() => 'ranInline' in globalThis)).toBe(false)
  })
})

test.describe('without a network', () => {
  test.use({
    serviceWorkers: 'allow',
    // What is not there is asked for in vain, and said on the console by the browser itself.
    expectedErrors: { words: [/ERR_INTERNET_DISCONNECTED/, /Failed to fetch RSC payload/] },
  })

  /** Waits until the browser keeps the program. */
  async function kept(page: Page): Promise<void> {
    await page.evaluate(async () => {
      await navigator.serviceWorker.ready
    })
    await expect(page.getByText('The program opens without a network.')).toBeVisible({ timeout: 60_000 })
  }

  test('after the first visit pieces open, play, are recorded, engraved and delivered', async ({
    page,
    context,
  }) => {
    await page.goto('/')
    await kept(page)
    await page.getByRole('button', { name: /Open the demo/ }).click()
    await saved(page)
    await context.setOffline(true)
    await page.goto('/')
    await page.getByRole('button', { name: 'Open Lamps on the Ebb' }).click()
    await expect(page.getByRole('region', { name: 'Who plays' })).toBeVisible()
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await reaches(page, 1, 2)
    await page.getByRole('button', { name: 'Stop', exact: true }).click()
    await goTo(page, 'Score')
    await expect(page.getByTestId('page').locator('g.note').first()).toBeVisible()
    await goTo(page, 'Record')
    await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
    await page.getByRole('button', { name: 'Record everyone' }).click()
    await reaches(page, 2)
    await page.keyboard.press('Shift+R')
    await expect(page.getByTestId('take-account')).toContainText(/Take 2: \d+ notes heard/)
    await goTo(page, 'Deliver')
    await page.getByRole('button', { name: 'Write and check the files' }).click()
    await expect(page.locator('[data-file$=".musicxml"]')).toBeVisible({ timeout: 60_000 })
    await savedFile(page, page.getByRole('button', { name: 'Save the project to a file' }))
    await saved(page)
    await page.reload()
    await expect(page.getByRole('heading', { level: 1 })).toContainText('Lamps on the Ebb')
    await page.goto('/help')
    await expect(page.getByRole('heading', { name: 'What if' })).toBeVisible()
  })

  test('a page is kept once for all pieces; files of a newer version that waits are found; a stand-in opens unseen', async ({
    page,
    context,
  }) => {
    await newPiece(page)
    await page.goto('/')
    await kept(page)
    // Controlled from here on: two addresses of one page.
    for (const id of ['one', 'two']) await page.goto(`/project?id=${id}`)
    const kinds = await page.evaluate(async () =>
      (await (await caches.open((await caches.keys()).find((name) => name.startsWith('pages of '))!)).keys())
        .map(({ url }) => new URL(url))
        .map((url) => url.pathname + url.search),
    )
    expect(kinds.filter((address) => address.startsWith('/project'))).toEqual(['/project'])
    await page.evaluate(async () =>
      (await caches.open('of a newer version')).put('/_next/static/newer.js', new Response('newer')),
    )
    // A short visit after a deployment: the page of the newer version is shown, and never kept without its scripts.
    await context.route(/\/help$/, (route) =>
      route.fulfill({
        contentType: 'text/html',
        body: '<h1>Newer help</h1><!-- <script src="/_next/static/chunks/of-tomorrow.js"></script> -->',
      }),
    )
    await page.goto('/help')
    await expect(page.getByRole('heading', { name: 'Newer help' })).toBeVisible()
    await context.unroute(/\/help$/)
    await context.setOffline(true)
    await page.goto('/help')
    await expect(page.getByRole('heading', { name: 'What if' })).toBeVisible()
    expect(await page.evaluate(async () => (await fetch('/_next/static/newer.js')).text())).toBe('newer')
    await page.goto('/programs/receiver')
    await expect(page.getByRole('heading').first()).toBeVisible()
  })

  test('instruments that cannot be kept are counted, and can be asked for again', async ({
    page,
    context,
  }) => {
    await page.goto('/')
    await kept(page)
    await page.reload()
    await context.setOffline(true)
    await page.getByRole('button', { name: /Keep all instruments/ }).click()
    await expect(page.getByText(/^\d of 129 instruments are kept too/)).toBeVisible()
    await context.setOffline(false)
    await page.getByRole('button', { name: 'Try again' }).click()
    await expect(page.getByText('129 of 129 instruments are kept too.')).toBeVisible({ timeout: 60_000 })
  })
})

for (const [what, result, words] of [
  ['refuses to keep it', () => Promise.reject(new Error('no room')), /could not be kept in this browser/],
  [
    'has not kept all of it yet',
    () =>
      Promise.resolve({ installing: new EventTarget(), active: null, waiting: null, addEventListener() {} }),
    /is being kept for use without a network: closed before that is done, it does not open/,
  ],
] as const)
  test(`a browser that ${what}: that is said on the shelf`, async ({ page }) => {
    await page.addInitScript(`
      const register = ${result}
      ServiceWorkerContainer.prototype.register = register
      Object.defineProperty(ServiceWorkerContainer.prototype, 'ready', { get: () => new Promise(() => {}) })`)
    await page.goto('/')
    await expect(page.getByText(words)).toBeVisible()
    await expect(page.getByText('The program opens without a network.')).toHaveCount(0)
  })

test('the browser can keep the program: a manifest with icons that are there', async ({ page, request }) => {
  await page.goto('/')
  const manifest = await (await request.get('/manifest.webmanifest')).json()
  expect(manifest).toMatchObject({ name: 'Unbroken Voice', display: 'standalone', start_url: '/' })
  for (const { src, type } of manifest.icons) {
    const icon = await request.get(src)
    expect({ src, type: icon.headers()['content-type'] }).toEqual({ src, type })
  }
  await expect(page.locator('link[rel="manifest"]')).toHaveCount(1)
  await expect(page.getByText(/Stored in this browser: .* of /)).toBeVisible()
})

test('the way through the work is told on the page and goes away by doing', async ({ page }) => {
  await openDemo(page)
  const steps = page.getByRole('region', { name: 'First steps' })
  await expect(steps).toContainText('Play a few notes')
  await page.keyboard.press('KeyA')
  await expect(steps).toContainText('Record everyone')
  await goTo(page, 'Record')
  await page.getByRole('combobox', { name: 'count-in' }).selectOption('0')
  await page.getByRole('button', { name: 'Record everyone' }).click()
  await reaches(page, 1, 2)
  await page.keyboard.press('Shift+R')
  await expect(steps).toContainText('Look at the page')
  await steps.getByRole('button', { name: 'Go there' }).click()
  await page.getByTestId('page').locator('[data-system="0"] g.note .notehead').first().click({ force: true })
  await expect(steps).toContainText('Write and check the files')
  await goTo(page, 'Deliver')
  await expect(steps).toBeVisible()
  await page.getByRole('button', { name: 'Write and check the files' }).click()
  await expect(steps).toHaveCount(0, { timeout: 60_000 })
  await page.reload()
  await expect(page.getByRole('navigation', { name: 'Steps of the work' })).toBeVisible()
  await expect(steps).toHaveCount(0)
})

test('help is a key away, over whatever goes on, and closes again', async ({ page }) => {
  await openDemo(page)
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await page.keyboard.press('?')
  const help = page.getByRole('dialog', { name: 'Help' })
  for (const heading of ['What if', 'Keys', 'Words'])
    await expect(help.getByRole('heading', { name: heading })).toBeVisible()
  await expect(help).toContainText('There is no sound.')
  await page.keyboard.press('Escape')
  await expect(help).toHaveCount(0)
  // It played on meanwhile.
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
})
