import { launchBrowser } from '../launchBrowser'

/** The browser’s database without the program: forty megabytes in records of a hundred kilobytes are read, and nothing is done with them. */
export async function storageMs(address: string): Promise<number> {
  const browser = await launchBrowser()
  try {
    const page = await browser.newPage()
    await page.goto(address)
    return await page.evaluate(async () => {
      const done = <Result>(request: IDBRequest<Result>) =>
        new Promise<Result>((resolve, reject) => {
          request.onsuccess = () => resolve(request.result)
          request.onerror = () => reject(request.error)
        })
      const opening = indexedDB.open('yardstick', 1)
      opening.onupgradeneeded = () => opening.result.createObjectStore('records')
      const db = await done(opening)
      const writing = db.transaction('records', 'readwrite')
      for (let index = 0; index < 400; index++)
        writing.objectStore('records').put(new Uint8Array(100_000).fill(index), index)
      await new Promise((resolve) => {
        writing.oncomplete = resolve
      })
      const times: number[] = []
      for (let time = 0; time < 5; time++) {
        const start = performance.now()
        await done(db.transaction('records').objectStore('records').getAll())
        times.push(performance.now() - start)
      }
      return times.sort((a, b) => a - b)[2]!
    })
  } finally {
    await browser.close()
  }
}
