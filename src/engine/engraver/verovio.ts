import type { VerovioToolkit } from 'verovio/esm'

/** MusicXML as MEI, as the engraver understands it. */
export function meiOf(toolkit: VerovioToolkit, musicXml: string): string {
  toolkit.setOptions({ breaks: 'none' })
  if (!toolkit.loadData(musicXml)) throw new Error('The engraver could not read the MusicXML')
  return toolkit.getMEI({ removeIds: false })
}

/** MusicXML as the engraver understands it, told as a MIDI file. */
export function midiOf(toolkit: VerovioToolkit, musicXml: string): Uint8Array {
  toolkit.setOptions({ breaks: 'none' })
  if (!toolkit.loadData(musicXml)) throw new Error('The independent reader could not read the MusicXML')
  return Uint8Array.from(atob(toolkit.renderToMIDI()), (letter) => letter.charCodeAt(0))
}

/** Loads the engraving library (WebAssembly) into this thread; until it is asked for, nothing of it is there. */
export async function loadVerovio(): Promise<VerovioToolkit> {
  const [{ VerovioToolkit: Toolkit, enableLog, LOG_OFF }, { default: createModule }] = await Promise.all([
    import('verovio/esm'),
    import('verovio/wasm'),
  ])
  const library = await createModule()
  // What it remarks is about how a line is told to it, not for whoever reads the page; in the tests it is seen.
  enableLog(LOG_OFF, library)
  return new Toolkit(library)
}
