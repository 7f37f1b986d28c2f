import { midiToProject } from '../src/core/formats/midiToProject'
import { writeMusicXml } from '../src/core/formats/musicXml'
import { readMidiFile } from '../src/core/midi/standardMidiFile/read'
import { headingsOf, scoreOf } from '../src/core/project/onPage'
import { type BenchWindow, bringIn, openPage, withBrowser } from './browser'
import { type Figure, workAtMost } from './figure'
import { performedPiece } from './pieces'

/** A file of notation of thirty parts, opened and given out again by the press of a button: written, packed, read back and compared. */
export async function delivery(): Promise<Figure[]> {
  const { bytes, notes } = performedPiece(30, 122, true)
  const played = midiToProject(readMidiFile(bytes), { id: 'bench', name: 'Bench', nowMs: 0 }).project
  const project = { ...played, scoreSettings: { ...played.scoreSettings, readsClefs: false } }
  const file = new TextEncoder().encode(writeMusicXml(scoreOf(project), headingsOf(project)))
  const { outMs, longestMs } = await withBrowser([], async (browser) => {
    const page = await openPage(browser)
    await bringIn(page, file, 'tracks')
    return page.evaluate(async () => {
      const { unbrokenSession: session, longTasks } = globalThis as BenchWindow
      // The file was stored, and its page has been read.
      await session.engraving.plain()
      longTasks.length = 0
      const start = performance.now()
      const { files } = await session.computing.run((compute) =>
        compute.deliverMusicXml(session.store.getState().project, '3.0', false),
      )
      const outMs = performance.now() - start
      const unproved = files.find(({ proof }) => !proof.isProved)
      if (unproved) throw new Error(`The file is not what was written: ${unproved.proof.differences[0]}`)
      return { outMs, longestMs: Math.max(0, ...longTasks) }
    })
  })
  return [
    workAtMost(
      `MusicXML of 30,000 notes out: written, packed and read back (the page held up for ${longestMs.toFixed(0)} ms at most meanwhile)`,
      (outMs * 30_000) / notes,
      'ms',
      6000,
    ),
  ]
}
