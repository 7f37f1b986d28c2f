import { clientsClaim } from 'workbox-core'
import { ExpirationPlugin } from 'workbox-expiration'
import { cleanupOutdatedCaches, matchPrecache, precacheAndRoute } from 'workbox-precaching'
import { registerRoute } from 'workbox-routing'
import { CacheFirst, NetworkFirst } from 'workbox-strategies'
import { instrumentCache, keepInstruments, useNewVersion } from './words'

declare const self: ServiceWorkerGlobalScope & {
  readonly __WB_MANIFEST: readonly { readonly url: string; readonly revision: string | null }[]
}

/**
 * Keeps the program for work without a network: its code and typefaces from the first visit on, pages as they were seen
 * last, instruments as they are played or all of them on request. A new version waits until somebody takes it over, so that
 * nothing changes under a piece that is being recorded.
 */
registerRoute(
  ({ request, url }) => request.destination === 'worker' && url.pathname.startsWith('/_next/static/'),
  async ({ request, url }) => {
    const kept = (await matchPrecache(url.pathname)) ?? (await caches.match(url.pathname))
    if (!kept) return fetch(request)
    // A kept answer has an address of its own, which a worker would take for its address; the one it was asked for tells it
    // what to load.
    return new Response(await kept.blob(), { status: kept.status, headers: kept.headers })
  },
)
const ownVersion = [...self.__WB_MANIFEST]
precacheAndRoute(ownVersion)
// A page of a newer version that still waits asks for files that only that version has kept: they are named by their content.
registerRoute(
  ({ url }) => url.origin === self.location.origin && url.pathname.startsWith('/_next/static/'),
  async ({ request, url }) => (await caches.match(url.pathname)) ?? fetch(request),
)
cleanupOutdatedCaches()
clientsClaim()

/** Pages belong to the version whose files they ask for. */
const pageCache = `pages of ${process.env.BUILD_ID}`
const ownFiles = new Set(ownVersion.map(({ url }) => url))

/** Whether all files that a page asks for are of this version: one of a newer version would be a page without scripts here. */
async function isOfThisVersion(page: Response): Promise<boolean> {
  const text = await page.clone().text()
  return [...text.matchAll(/\/_next\/static\/[^"'\\\s?]+\.(?:js|css)/g)].every(([file]) => ownFiles.has(file))
}
/** Pages that are there without a network even when they were never looked at. */
const pages = ['/', '/project', '/help', '/programs/sender', '/programs/receiver']

/** A server that does not answer is not waited for longer than this. */
const longestSeconds = 4

registerRoute(
  ({ request, url }) => request.mode === 'navigate' && url.origin === self.location.origin,
  new NetworkFirst({
    cacheName: pageCache,
    networkTimeoutSeconds: longestSeconds,
    matchOptions: { ignoreVary: true },
    plugins: [
      // One page serves every project: its address tells only which, so the page is kept once, as it was seen last.
      { cacheKeyWillBeUsed: async ({ request }) => new URL(request.url).pathname },
      { cacheWillUpdate: async ({ response }) => ((await isOfThisVersion(response)) ? response : null) },
      new ExpirationPlugin({ maxEntries: 12 }),
    ],
  }),
)

registerRoute(
  ({ url }) => url.origin === self.location.origin && url.pathname.startsWith('/instruments/'),
  new CacheFirst({ cacheName: instrumentCache }),
)

self.addEventListener('install', (event) => {
  event.waitUntil(keepPages())
})

/** @throws Error where the server has another version by now: this one is not installed then, and the next one is */
async function keepPages(): Promise<void> {
  const cache = await caches.open(pageCache)
  for (const page of pages) {
    const response = await fetch(page, { cache: 'reload' })
    if (!response.ok || !(await isOfThisVersion(response))) throw new Error(`${page} is of another version`)
    await cache.put(page, response)
  }
}

// Pages of the version before ask for files that are gone with it.
self.addEventListener('activate', (event) => {
  event.waitUntil(forgetOtherPages())
})

async function forgetOtherPages(): Promise<void> {
  for (const name of await caches.keys())
    if (name.startsWith('pages') && name !== pageCache) await caches.delete(name)
}

self.addEventListener('message', (event) => {
  if (event.data === useNewVersion) void self.skipWaiting()
  if (event.data?.type === keepInstruments) {
    const { addresses } = event.data as { addresses: readonly string[] }
    event.waitUntil(
      keepAll(addresses).then((kept) =>
        event.source?.postMessage({ type: keepInstruments, kept, of: addresses.length }),
      ),
    )
  }
})

/** @returns how many of them are kept now */
async function keepAll(addresses: readonly string[]): Promise<number> {
  const cache = await caches.open(instrumentCache)
  let kept = 0
  for (const address of addresses) {
    if (await cache.match(address)) kept++
    else {
      const isKept = await cache.add(address).then(
        () => true,
        // No network, or no room: it is not counted, and the shelf says how many are kept.
        () => false,
      )
      if (isKept) kept++
    }
  }
  return kept
}
