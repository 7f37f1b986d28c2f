import type { IndependentReader } from '../proof/proveMusicXml'

let starting: Promise<void> | undefined

/** Verovio in Node, for tests: its own MusicXML reader, answering with a MIDI file. */
export async function verovioReader(): Promise<IndependentReader> {
  // The CommonJS build initialises itself in the background.
  const verovio = require('verovio')
  starting ??= new Promise<void>((resolve) => {
    verovio.module.onRuntimeInitialized = resolve
  })
  await starting
  const toolkit = new verovio.toolkit()
  toolkit.setOptions({ breaks: 'none' })
  return {
    midiOf(musicXml) {
      if (!toolkit.loadData(musicXml)) throw new Error('verovio could not read the file')
      return Uint8Array.from(Buffer.from(toolkit.renderToMIDI(), 'base64'))
    },
  }
}
