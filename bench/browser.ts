import { type ChildProcess, spawn } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import type { Browser, Page } from '@playwright/test'
import type { Session } from '../src/state/session'
import { atLeast, atMost, type Figure, median, percentile, workAtMost } from './figure'
import { launchBrowser } from './launchBrowser'
import { denseFile, performedPiece } from './pieces'

const port = 3177
export const address = `http://localhost:${port}`
export type BenchWindow = typeof globalThis & { unbrokenSession: Session; longTasks: number[] }

/** The built program, served for the time of some work. */
export async function withServer(work: () => Promise<void>): Promise<void> {
  const server = await startServer()
  try {
    await work()
  } finally {
    if (server.pid) process.kill(-server.pid, 'SIGTERM')
  }
}

async function startServer(): Promise<ChildProcess> {
  const server = spawn('npx', ['next', 'start', '-p', String(port)], { stdio: 'ignore', detached: true })
  for (let attempt = 0; attempt < 100; attempt++) {
    try {
      if ((await fetch(address)).ok) return server
    } catch {
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
  }
  throw new Error('The server did not start')
}

export async function withBrowser<Result>(
  more: readonly string[],
  work: (browser: Browser) => Promise<Result>,
): Promise<Result> {
  const browser = await launchBrowser(more)
  try {
    return await work(browser)
  } finally {
    await browser.close()
  }
}

export async function openPage(browser: Browser): Promise<Page> {
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    serviceWorkers: 'block',
    // Devices and recorders of the bench are put into the page from outside.
    bypassCSP: true,
  })
  const page = await context.newPage()
  await page.addInitScript(() => {
    sessionStorage.setItem('bench', 'on')
    const window = globalThis as BenchWindow
    window.longTasks = []
    new PerformanceObserver((list) =>
      window.longTasks.push(...list.getEntries().map((entry) => entry.duration)),
    ).observe({ entryTypes: ['longtask'] })
  })
  return page
}

export async function bringIn(page: Page, bytes: Uint8Array, step: string, atShelfMs = 0): Promise<void> {
  await page.goto(address)
  await page.getByRole('button', { name: /Open the demo/, disabled: false }).waitFor()
  await page.waitForTimeout(atShelfMs)
  await page
    .getByLabel('File to bring in')
    .setInputFiles({ name: 'bench.mid', mimeType: 'audio/midi', buffer: Buffer.from(bytes) })
  await page.waitForURL(/step=tracks/, { timeout: 120_000 })
  await page.waitForFunction(() => 'unbrokenSession' in globalThis)
  if (step !== 'tracks') await goTo(page, step)
}

async function goTo(page: Page, step: string): Promise<void> {
  await page
    .getByRole('navigation', { name: 'Steps of the work' })
    .getByRole('button', { name: new RegExp(`^${step}`) })
    .click()
}

/** Opens Score; until its first line is drawn, and until every line in sight is. */
function openedScore(page: Page) {
  return page.evaluate(async () => {
    const button = [...document.querySelectorAll('nav[aria-label="Steps of the work"] button')].find((each) =>
      each.textContent?.startsWith('Score'),
    ) as HTMLElement
    ;(globalThis as BenchWindow).longTasks.length = 0
    const start = performance.now()
    button.click()
    const next = () => new Promise((resolve) => setTimeout(resolve, 1))
    while (!document.querySelector('[data-system="0"] [data-whole]')) await next()
    const firstLineMs = performance.now() - start
    const isInSight = (element: Element) => {
      const sheet = element.closest('section')!.getBoundingClientRect()
      const box = element.getBoundingClientRect()
      return box.top < sheet.bottom && box.bottom > sheet.top
    }
    const missing = () =>
      [...document.querySelectorAll('[data-system]')].some(
        (system) => isInSight(system) && !system.querySelector('[data-whole]'),
      )
    while (missing()) await next()
    const inSightMs = performance.now() - start
    await new Promise((resolve) => setTimeout(resolve, 600))
    return { firstLineMs, inSightMs, blockedMs: Math.max(0, ...(globalThis as BenchWindow).longTasks) }
  })
}

/** First page from warm, and one edited note in a long score, as the page sees them. */
export async function engraving(): Promise<Figure[]> {
  const piece = performedPiece(8, 300)
  return withBrowser([], async (browser) => {
    const coldPage = await openPage(browser)
    await bringIn(coldPage, piece.bytes, 'tracks', 4000)
    const cold = await openedScore(coldPage)
    await coldPage.close()
    const page = await openPage(browser)
    await bringIn(page, piece.bytes, 'tracks')
    await page.waitForTimeout(3000)
    await page.evaluate(() => {
      ;(globalThis as BenchWindow).longTasks.length = 0
    })
    const openScore = async () => {
      await goTo(page, 'Tracks')
      await page.waitForTimeout(500)
      return openedScore(page)
    }
    /** Every note a semitone up or down: no line of this page was ever engraved. */
    const changeEverything = (by: number) =>
      page.evaluate(async (semitones) => {
        const { store, engraving } = (globalThis as BenchWindow).unbrokenSession
        const before = engraving.state.getState().outline?.revision ?? 0
        store.getState().apply('bench', (project) => ({
          ...project,
          tracks: project.tracks.map((track) => ({
            ...track,
            clips: track.clips.map((clip) => ({
              ...clip,
              notes: clip.notes.map((note) => ({ ...note, key: note.key + semitones })),
            })),
          })),
        }))
        while ((engraving.state.getState().outline?.revision ?? 0) === before)
          await new Promise((resolve) => setTimeout(resolve, 20))
        await new Promise((resolve) => setTimeout(resolve, 500))
      }, by)
    const first = await openScore()
    const never: Awaited<ReturnType<typeof openScore>>[] = []
    const warm: typeof never = []
    for (let i = 0; i < 5; i++) {
      await goTo(page, 'Tracks')
      await changeEverything(i % 2 ? -1 : 1)
      never.push(await openScore())
      warm.push(await openScore())
    }
    await goTo(page, 'Score')
    await page.waitForSelector('[data-system="1"] g.note')
    await page.waitForTimeout(1500)
    const edits: number[] = []
    for (let i = 0; i < 9; i++) {
      edits.push(
        await page.evaluate(async (index) => {
          const { store } = (globalThis as BenchWindow).unbrokenSession
          // A single note of the first line, so that a semitone is seen there.
          const heads = [...document.querySelectorAll('[data-system="0"] g.note')].filter(
            (head) => !head.closest('g.chord') && /^n\d+$/.test(head.id),
          )
          const noteId = Number(heads[Math.floor((index * heads.length) / 9)]!.id.slice(1))
          const track = store
            .getState()
            .project.tracks.find((each) => each.clips[0]!.notes.some((note) => note.id === noteId))!
          const note = track.clips[0]!.notes.find((each) => each.id === noteId)!
          const place = document.querySelector('[data-system="0"] .engraved')!
          const start = performance.now()
          const changed = new Promise<void>((resolve) => {
            const observer = new MutationObserver(() => {
              observer.disconnect()
              resolve()
            })
            observer.observe(place, { childList: true })
          })
          store.getState().apply('bench', (project) => ({
            ...project,
            tracks: project.tracks.map((old) =>
              old === track
                ? {
                    ...old,
                    clips: old.clips.map((clip) => ({
                      ...clip,
                      notes: clip.notes.map((each) =>
                        each === note ? { ...each, key: each.key + 1 } : each,
                      ),
                    })),
                  }
                : old,
            ),
          }))
          await changed
          return performance.now() - start
        }, i),
      )
      await page.waitForTimeout(400)
    }
    const changes = await changesByHand(page)
    const frames = await scrollThrough(browser, page)
    return [
      workAtMost(
        `all lines in sight drawn after opening Score right after the piece came in, nothing of it read or cached, the shelf open for 4 s before (${piece.notes} notes)`,
        cold.inSightMs,
        'ms',
        1200,
        'engraving',
      ),
      workAtMost(
        `all lines in sight drawn after opening Score for the first time in the session, read beforehand (${piece.notes} notes)`,
        first.inSightMs,
        'ms',
        2000,
        'engraving',
      ),
      workAtMost(
        'first line drawn after opening Score, of a page never engraved before (worst of 5)',
        Math.max(...never.map(({ firstLineMs }) => firstLineMs)),
        'ms',
        700,
        'engraving',
      ),
      workAtMost(
        'all lines in sight drawn after opening Score, of a page never engraved before (worst of 5)',
        Math.max(...never.map(({ inSightMs }) => inSightMs)),
        'ms',
        1500,
        'engraving',
      ),
      workAtMost(
        'the same of a page that was looked at before (worst of 5)',
        Math.max(...warm.map(({ inSightMs }) => inSightMs)),
        'ms',
        700,
        'engraving',
      ),
      workAtMost(
        'longest block of the page while it opens (tasks over 50 ms count; worst of 12 openings, the coldest among them)',
        Math.max(...[cold, first, ...never, ...warm].map(({ blockedMs }) => blockedMs)),
        'ms',
        50,
        'drawing',
      ),
      workAtMost(
        `one edited note to re-engraved bars, 300 bars, 8 parts (worst of ${edits.length}; median ${median(edits).toFixed(0)} ms)`,
        Math.max(...edits),
        'ms',
        200,
        'engraving',
      ),
      workAtMost(
        `one change on the page by a key to seen, 300 bars, 8 parts (worst of ${changes.length}; median ${median(changes).toFixed(0)} ms)`,
        Math.max(...changes),
        'ms',
        150,
        'engraving',
      ),
      atLeast(
        `scroll through all pages of it: frames with under 17 ms of main-thread work (${frames.length} frames, median ${median(frames).toFixed(1)} ms)`,
        (frames.filter((cost) => cost < 17).length / frames.length) * 100,
        '%',
        95,
      ),
    ]
  })
}

/** A sign put to a note of the first line by its key, until its line is drawn anew. */
async function changesByHand(page: Page): Promise<number[]> {
  const changes: number[] = []
  for (let i = 0; i < 9; i++) {
    await page.evaluate((index) => {
      const heads = [...document.querySelectorAll('[data-system="0"] g.note')].filter((head) =>
        /^n\d+$/.test(head.id),
      )
      const head = heads[Math.floor((index * heads.length) / 9)]!.querySelector('path, use')!
      head.dispatchEvent(new MouseEvent('click', clickOn(head)))
      function clickOn(element: Element): MouseEventInit {
        const box = element.getBoundingClientRect()
        return { bubbles: true, clientX: box.left + box.width / 2, clientY: box.top + box.height / 2 }
      }
    }, i)
    await page.waitForTimeout(500)
    changes.push(
      await page.evaluate(async () => {
        const place = document.querySelector('[data-system="0"] .engraved')!
        const changed = new Promise<void>((resolve) => {
          const observer = new MutationObserver(() => {
            observer.disconnect()
            resolve()
          })
          observer.observe(place, { childList: true })
        })
        const sheet = document.querySelector('section[aria-label="Page"]')!
        const start = performance.now()
        sheet.dispatchEvent(new KeyboardEvent('keydown', { key: '@', bubbles: true, cancelable: true }))
        await changed
        return performance.now() - start
      }),
    )
    await page.waitForTimeout(400)
  }
  return changes
}

/**
 * What the page's own thread works from each frame to the next, in milliseconds, while a wheel turns from the first line to the last: all
 * its tasks, as the browser's own record of them has it.
 */
async function scrollThrough(browser: Browser, page: Page): Promise<number[]> {
  const sheet = page.getByRole('region', { name: 'Page', exact: true })
  await sheet.hover()
  await browser.startTracing(page, { categories: ['disabled-by-default-devtools.timeline', 'cc'] })
  const heightPx = await sheet.evaluate(({ scrollHeight }) => scrollHeight)
  // Nothing is asked of the page meanwhile: that would be work as well.
  for (let atPx = 0; atPx < heightPx; atPx += 120) {
    await page.mouse.wheel(0, 120)
    await page.waitForTimeout(16)
  }
  const { traceEvents } = JSON.parse((await browser.stopTracing()).toString()) as {
    readonly traceEvents: readonly {
      readonly name: string
      readonly ph: string
      readonly pid: number
      readonly tid: number
      readonly ts: number
      readonly dur?: number
    }[]
  }
  const whole = traceEvents.filter(({ ph }) => ph === 'X')
  const frames = whole.filter(({ name }) => name === 'ProxyMain::BeginMainFrame')
  const workOf = ({ pid, tid }: (typeof whole)[number]) =>
    whole.reduce(
      (sum, each) =>
        each.name === 'RunTask' && each.pid === pid && each.tid === tid ? sum + (each.dur ?? 0) : sum,
      0,
    )
  // Of all threads that make frames, the page's own is the one that works.
  const threads = new Map(frames.map((frame) => [`${frame.pid} ${frame.tid}`, frame]))
  const { pid, tid } = [...threads.values()].sort((a, b) => workOf(b) - workOf(a))[0]!
  const isOwn = (event: (typeof whole)[number]) => event.pid === pid && event.tid === tid
  const starts = frames.filter(isOwn).map(({ ts }) => ts)
  const tasks = whole.filter((event) => event.name === 'RunTask' && isOwn(event)).sort((a, b) => a.ts - b.ts)
  const work: number[] = []
  for (const { ts, dur = 0 } of tasks) {
    // A frame is made within a task; what is done until the next one is counted with it.
    if (starts.some((start) => start >= ts && start <= ts + dur)) work.push(dur / 1000)
    else if (work.length > 0) work[work.length - 1]! += dur / 1000
  }
  return work
}

/** Eight parts play from a file and are recorded while the page is looked at: from the end of each bar until it is drawn as it was played. */
export async function liveBars(): Promise<Figure[]> {
  const piece = performedPiece(8, 16)
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.goto(address)
    await page.getByRole('button', { name: /^New piece/, disabled: false }).click()
    await page.waitForFunction(() => 'unbrokenSession' in globalThis)
    await page
      .getByLabel('MIDI file that plays')
      .setInputFiles({ name: 'eight.mid', mimeType: 'audio/midi', buffer: Buffer.from(piece.bytes) })
    await page.waitForTimeout(1000)
    await goTo(page, 'Score')
    await page.waitForTimeout(1000)
    const { shownMs, staves } = await page.evaluate(async () => {
      const session = (globalThis as BenchWindow).unbrokenSession
      await session.record()
      const barTicks = 4 * 10_080
      const endedAtMs: number[] = []
      const shown: number[] = []
      for (;;) {
        await new Promise((resolve) => setTimeout(resolve, 4))
        if (session.live.getState().transport.state !== 'recording') continue
        const nowMs = performance.now()
        const bar = Math.floor(session.positionTicks() / barTicks)
        while (endedAtMs.length < bar) endedAtMs.push(nowMs)
        for (const line of document.querySelectorAll<HTMLElement>('[data-testid="live-line"]'))
          for (let each = Number(line.dataset.from); each < Number(line.dataset.to); each++)
            if (endedAtMs[each] !== undefined && Number(line.dataset.at) >= (each + 1) * barTicks)
              shown[each] ??= nowMs - endedAtMs[each]!
        if (bar > 12) break
      }
      const lines = document.querySelectorAll('[data-testid="live-line"] g.measure')
      const count = lines[0]!.querySelectorAll('g.staff').length
      session.stop()
      return { shownMs: shown.slice(0, 12), staves: count }
    })
    return [
      workAtMost(
        `live: bar played to bar shown, 8 parts (${staves} staves; worst of ${shownMs.length} bars; median ${median(shownMs).toFixed(0)} ms)`,
        Math.max(...shownMs),
        'ms',
        300,
        'engraving',
      ),
    ]
  })
}

/** 16 channels, 1,000 events a second for 30 s through a port of the W3C shape; then once more with a busy page. */
export async function capture(): Promise<Figure[]> {
  const figures: Figure[] = []
  for (const isBusy of [false, true]) {
    const result = await withBrowser([], async (browser) => {
      const page = await openPage(browser)
      await page.addInitScript(() => {
        const inputs = new Map()
        const access = Object.assign(new EventTarget(), { inputs })
        Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => access })
        const midiPort = Object.assign(new EventTarget(), {
          id: 'bench-port',
          name: 'Bench',
          state: 'connected',
        })
        inputs.set(midiPort.id, midiPort)
        // The device has a clock of its own: a worker that sends what is due, stamped with the moment it was due.
        const source = `
          let timer
          onmessage = ({ data: { startMs, count } }) => {
            let next = 0
            timer = setInterval(() => {
              const nowMs = performance.timeOrigin + performance.now()
              while (next < count && startMs + next <= nowMs) {
                const note = Math.floor(next / 32), within = next % 32
                const channel = within % 16, isOn = within < 16
                postMessage({ epochMs: startMs + next, bytes: [(isOn ? 0x90 : 0x80) | channel, 36 + (note % 60), 64] })
                next++
              }
              if (next >= count) clearInterval(timer)
            }, 2)
          }`
        const device = new Worker(URL.createObjectURL(new Blob([source], { type: 'text/javascript' })))
        device.onmessage = ({ data }) => {
          const event = new Event('midimessage')
          Object.defineProperty(event, 'timeStamp', { value: data.epochMs - performance.timeOrigin })
          midiPort.dispatchEvent(Object.assign(event, { data: Uint8Array.from(data.bytes) }))
        }
        Object.assign(globalThis, {
          startDevice: (startMs: number, count: number) => device.postMessage({ startMs, count }),
        })
      })
      await page.goto(address)
      await page.getByRole('button', { name: /New piece/, disabled: false }).click()
      await page.waitForFunction(() => 'unbrokenSession' in globalThis)
      return page.evaluate(async (busy) => {
        const window = globalThis as BenchWindow & { startDevice: (startMs: number, count: number) => void }
        const session = window.unbrokenSession
        const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
        // One note on each channel first: every stream takes its place.
        window.startDevice(performance.timeOrigin + performance.now(), 32)
        await wait(1500)
        await session.record()
        while (session.live.getState().transport.state !== 'recording' || session.positionTicks() < 0)
          await wait(20)
        await wait(200)
        const startMs = Math.ceil(performance.timeOrigin + performance.now()) + 0.25
        const count = 30_000
        // Strokes and releases come in turns of 16; the last turn may be strokes only.
        const strokes = Math.floor(count / 32) * 16 + Math.min(16, count % 32)
        window.startDevice(startMs, count)
        const until = performance.now() + 31_000
        while (performance.now() < until) {
          if (busy) {
            const busyUntil = performance.now() + 500
            while (performance.now() < busyUntil);
          }
          await wait(busy ? 30 : 200)
        }
        session.stop()
        await wait(1500)
        const { project } = session.store.getState()
        const take = project.takes.at(-1)!
        const events = await session.takeEvents(take.serial)
        let worstMs = 0
        let matched = 0
        for (let i = 0; i < events.count && matched < count; i++) {
          worstMs = Math.max(worstMs, Math.abs(events.timesMs[i]! - (startMs + matched)))
          matched++
        }
        // Onsets as they are on the tracks, in milliseconds of the piece.
        const ticksPerMs = (project.tempos[0]!.tempoBpm * 10_080) / 60_000
        let worstOnsetMs = 0
        let onTracks = 0
        let misrouted = 0
        for (const track of project.tracks) {
          const clip = track.clips.find((candidate) => candidate.takeSerial === take.serial)
          for (const note of clip?.notes ?? []) {
            if (note.origin.kind !== 'played') continue
            onTracks++
            if (track.routes[0]?.channel !== note.channel) misrouted++
            const due = startMs + note.origin.eventIndex - take.anchorMs
            worstOnsetMs = Math.max(worstOnsetMs, Math.abs(note.onsetTicks / ticksPerMs - due))
          }
        }
        return {
          worstMs: Math.max(worstMs, worstOnsetMs),
          lost: count - events.count,
          notesLost: strokes - onTracks,
          misrouted,
        }
      }, isBusy)
    })
    const where = isBusy ? ', page busy for 500 ms at a time' : ''
    figures.push(
      atMost(
        `stored onset against the source’s time stamp, through a simulated MIDI port${where}`,
        result.worstMs,
        'ms',
        0.1,
      ),
      atMost(`events lost${where}`, Math.abs(result.lost), 'events', 0),
      atMost(`notes lost or misrouted${where}`, Math.abs(result.notesLost) + result.misrouted, 'notes', 0),
    )
  }
  return figures
}

export async function keyboardToSynth(): Promise<Figure[]> {
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await page.goto(address)
    await page.getByRole('button', { name: /New piece/, disabled: false }).click()
    await page.waitForFunction(() => 'unbrokenSession' in globalThis)
    await page.evaluate(async () => {
      const window = globalThis as BenchWindow & { pressed: number[]; arrived: number[] }
      window.pressed = []
      window.arrived = []
      await window.unbrokenSession.startAudio()
      window.unbrokenSession.measureSynth(true)
      window.addEventListener(
        'keydown',
        (event) => window.pressed.push(performance.timeOrigin + event.timeStamp),
        { capture: true },
      )
      let isOn = true
      window.unbrokenSession.onSynthReport((report) => {
        if (report.type !== 'arrived') return
        // Each key sends an on and an off.
        if (isOn) window.arrived.push(report.epochMs)
        isOn = !isOn
      })
    })
    await page.waitForTimeout(1500)
    for (let i = 0; i < 120; i++) {
      await page.keyboard.down('KeyA')
      await page.waitForTimeout(25)
      await page.keyboard.up('KeyA')
      await page.waitForTimeout(35)
    }
    await page.waitForTimeout(500)
    const delays = await page.evaluate(() => {
      const { pressed, arrived } = globalThis as BenchWindow & { pressed: number[]; arrived: number[] }
      return pressed.map((pressedMs, index) => arrived[index]! - pressedMs)
    })
    return [
      atMost(
        `key down to command at the synthesiser, 99th percentile of ${delays.length} (median ${median(delays).toFixed(1)} ms)`,
        percentile(delays, 0.99),
        'ms',
        10,
      ),
    ]
  })
}

/**
 * Scroll and zoom of 100,000 notes. What a frame costs is read from the browser's own account of its main thread
 * (script, style, layout, paint), so that waiting for the display does not count.
 */
export async function drawing(): Promise<Figure[]> {
  const bytes = denseFile(100_000)
  return withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await bringIn(page, bytes, 'tracks')
    await page.waitForTimeout(4000)
    const devtools = await page.context().newCDPSession(page)
    await devtools.send('Performance.enable')
    const taskMs = async () => {
      const { metrics } = await devtools.send('Performance.getMetrics')
      return metrics.find((metric) => metric.name === 'TaskDuration')!.value * 1000
    }
    const frames: number[] = []
    for (let i = 0; i < 240; i++) {
      const before = await taskMs()
      await page.evaluate(async (index) => {
        const target = document.querySelector(
          index % 2 ? 'section[aria-label="Tracks"]' : '[role="application"]',
        )!
        const phase = Math.floor(index / 30) % 4
        const turn = [
          { deltaX: 40 },
          { deltaY: -30, ctrlKey: true },
          { deltaX: 90 },
          { deltaY: 30, ctrlKey: true },
        ][phase]
        const box = target.getBoundingClientRect()
        target.dispatchEvent(
          new WheelEvent('wheel', {
            bubbles: true,
            cancelable: true,
            clientX: box.left + 600,
            clientY: box.top + 80,
            ...turn,
          }),
        )
        await new Promise(requestAnimationFrame)
        await new Promise(requestAnimationFrame)
      }, i)
      frames.push((await taskMs()) - before)
    }
    const heap = await page.evaluate(
      () => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize,
    )
    const resident = rendererMegabytes()
    const within = frames.filter((cost) => cost < 17).length / frames.length
    return [
      atLeast(
        `drawing 100,000 notes, scroll and zoom: turns of the wheel with under 17 ms of main-thread work in the two frames after (median ${median(frames).toFixed(1)} ms)`,
        within * 100,
        '%',
        95,
      ),
      atMost('memory with 100,000 notes open, JavaScript heap of the page', heap / 1e6, 'MB', 400),
      atMost('memory with 100,000 notes open, whole renderer process', resident, 'MB', 400),
    ]
  })
}

/** Resident memory of the largest renderer process, without the pages it shares with others. */
export function rendererMegabytes(): number {
  let largest = 0
  for (const entry of readdirSync('/proc')) {
    if (!/^\d+$/.test(entry)) continue
    try {
      if (!readFileSync(`/proc/${entry}/cmdline`, 'utf8').includes('--type=renderer')) continue
      const rollup = readFileSync(`/proc/${entry}/smaps_rollup`, 'utf8')
      const of = (name: string) => Number(new RegExp(`^${name}:\\s+(\\d+) kB`, 'm').exec(rollup)?.[1] ?? 0)
      largest = Math.max(largest, (of('Private_Dirty') + of('Private_Clean')) / 1000)
    } catch {
      // The process ended while it was looked at.
    }
  }
  return largest
}
