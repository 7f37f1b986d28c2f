import type { IndependentReader } from '../proof/proveMusicXml'

/** The part of the engraving library that tests use. */
interface NodeToolkit {
  setOptions(options: Record<string, unknown>): void
  loadData(data: string): boolean
  renderToSVG(page: number): string
  renderToMIDI(): string
  getMEI(options?: Record<string, unknown>): string
}

/** Verovio in Node, for tests. */
export async function verovioToolkit(): Promise<NodeToolkit> {
  const [{ VerovioToolkit }, { default: createModule }] = await Promise.all([
    import('verovio/esm'),
    import('verovio/wasm'),
  ])
  return new VerovioToolkit(await createModule())
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
