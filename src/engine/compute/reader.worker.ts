import { expose } from 'comlink'
import { loadVerovio, midiOf } from '../engraver/verovio'

/** A thread that reads parts of a file back, beside others that read theirs. */
const loading = loadVerovio()

const api = { midiOf: async (musicXml: string): Promise<Uint8Array> => midiOf(await loading, musicXml) }

export type ReaderApi = typeof api
expose(api)
