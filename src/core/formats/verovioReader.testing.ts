import type { IndependentReader } from '../proof/proveMusicXml'

/** The part of the engraving library that tests use. */
interface NodeToolkit {
  setOptions(options: Record<string, unknown>): void
  loadData(data: string): boolean
  renderToSVG(page: number): string
  renderToMIDI(): string
  getMEI(options: Record<string, unknown>): string
}

let starting: Promise<void> | undefined

/** Verovio in Node, for tests. Its CommonJS build initialises itself in the background. */
export async function verovioToolkit(): Promise<NodeToolkit> {
  const verovio = require('verovio')
  starting ??= new Promise<void>((resolve) => {
    verovio.module.onRuntimeInitialized = resolve
  })
  await starting
  return new verovio.toolkit()
}

/** Verovio as a reader: its own understanding of MusicXML, told as a MIDI file. */
export async function verovioReader(): Promise<IndependentReader> {
  const toolkit = await verovioToolkit()
  toolkit.setOptions({ breaks: 'none' })
  return {
    midiOf(musicXml) {
      if (!toolkit.loadData(musicXml)) throw new Error('verovio could not read the file')
      return Uint8Array.from(Buffer.from(toolkit.renderToMIDI(), 'base64'))
    },
  }
}
