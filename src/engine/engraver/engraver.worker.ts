import { expose } from 'comlink'
import type { EngravingToolkit } from './engraveLine'
import { Engraver } from './engraver'
import { loadVerovio } from './verovio'
import { warmUp } from './warmUp'

/** The engraver's thread. A piece is read while the library is loaded. */
let loaded: EngravingToolkit | null = null
let loading: Promise<void> | undefined
function load(): Promise<void> {
  loading ??= loadVerovio().then((toolkit) => {
    loaded = toolkit
  })
  return loading
}
/** A piece was handed over. */
let isAsked = false
/** All of it was read once. */
let hasRead = false
const library = (): EngravingToolkit => {
  if (!loaded) throw new Error('the library that engraves is not loaded yet')
  return loaded
}
const engraver = new Engraver({
  setOptions: (options) => library().setOptions(options),
  loadData: (data) => library().loadData(data),
  renderToSVG: (page) => library().renderToSVG(page),
  getMEI: () => library().getMEI(),
})

/** So long a piece is read on end, before others have their turn. */
const longestReadingMs = 60
/** While lines of its first bars are being asked for, the rest waits; not longer than this. */
const drawnAfterMs = 100
const longestWaitMs = 1500
let lastAskedMs = Number.NEGATIVE_INFINITY

/** Others have their turn; who looks at the first bars has it until they are drawn. */
async function turnOfOthers(): Promise<void> {
  const startMs = performance.now()
  do await new Promise((resolve) => setTimeout(resolve, 0))
  while (performance.now() - lastAskedMs < drawnAfterMs && performance.now() - startMs < longestWaitMs)
}

const api = {
  /** Loads the library and has it at work once, for what will be asked later. */
  async prepare() {
    await load()
    // Whoever waits already is not kept waiting for that.
    await new Promise((resolve) => setTimeout(resolve, 0))
    if (!isAsked && loaded) warmUp(loaded)
  },
  async update(...[head, changed, look]: Parameters<Engraver['update']>) {
    isAsked = true
    // What is written anew is not looked at as it was.
    if (hasRead) return engraver.update(head, changed, look)
    engraver.take(changed)
    let readSinceMs = performance.now()
    for (const _part of engraver.reading(head)) {
      if (performance.now() - readSinceMs < longestReadingMs) continue
      await turnOfOthers()
      readSinceMs = performance.now()
    }
    hasRead = true
    return engraver.update(head, [], look)
  },
  beginning(...args: Parameters<Engraver['beginning']>) {
    const outline = engraver.beginning(...args)
    lastAskedMs = performance.now()
    return outline
  },
  async engrave(systemIndex: number) {
    await load()
    const line = engraver.engrave(systemIndex)
    lastAskedMs = performance.now()
    return line
  },
  async live(...args: Parameters<Engraver['live']>) {
    await load()
    return engraver.live(...args)
  },
  async picture(...args: Parameters<Engraver['picture']>) {
    await load()
    return engraver.picture(...args)
  },
  locate: (...args: Parameters<Engraver['locate']>) => engraver.locate(...args),
  draw: (...args: Parameters<Engraver['draw']>) => engraver.draw(...args),
  notesIn: (...args: Parameters<Engraver['notesIn']>) => engraver.notesIn(...args),
  notesBetween: (...args: Parameters<Engraver['notesBetween']>) => engraver.notesBetween(...args),
  sounds: () => engraver.sounds(),
  plain: () => engraver.plain(),
  chords: () => engraver.chords(),
  walk: (...args: Parameters<Engraver['walk']>) => engraver.walk(...args),
}

export type EngraverApi = typeof api
expose(api)
