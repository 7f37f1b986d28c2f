import { expose, transfer } from 'comlink'
import { renderSoundFiles, type SoundOrder } from './soundFiles'

/** The thread that renders sound files. */
const banks = new Map<string, Promise<ArrayBuffer>>()

function bankOf(id: string): Promise<ArrayBuffer> {
  let bank = banks.get(id)
  if (!bank) {
    bank = fetch(`/instruments/${id}.sf3`).then((answer) => {
      if (!answer.ok) throw new Error(`an instrument could not be fetched (${answer.status})`)
      return answer.arrayBuffer()
    })
    banks.set(id, bank)
    // Another time it may be there.
    bank.catch(() => banks.delete(id))
  }
  return bank
}

const api = {
  /** @param onSeconds is told how many seconds of sound are rendered, of all files together */
  async render(order: SoundOrder, onSeconds: (done: number) => void) {
    const rendered = await renderSoundFiles(order, bankOf, onSeconds)
    return transfer(
      rendered,
      rendered.files.map(({ bytes }) => bytes.buffer as ArrayBuffer),
    )
  },
}

export type SoundFilesApi = typeof api
expose(api)
