import { expose } from 'comlink'
import type { SoundForm } from '@/core/sound/wav'
import { renderSoundFiles, type SoundAccount, type SoundFile, type SoundOrder } from './soundFiles'

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

async function oggWasm(): Promise<ArrayBuffer> {
  const answer = await fetch(new URL('wasm-media-encoders/wasm/ogg', import.meta.url))
  if (!answer.ok) throw new Error(`the encoder could not be fetched (${answer.status})`)
  return answer.arrayBuffer()
}

const soundTypes: Readonly<Record<SoundForm, string>> = { wav: 'audio/wav', ogg: 'audio/ogg' }

/** A file as the browser keeps it: not in memory, where there is no room for many. */
export interface KeptSoundFile extends Omit<SoundFile, 'bytes'> {
  readonly blob: Blob
}

const api = {
  /** @param onSeconds is told how many seconds of sound are rendered, of all files together */
  async render(
    order: SoundOrder,
    onSeconds: (done: number) => void,
  ): Promise<SoundAccount & { readonly files: readonly KeptSoundFile[] }> {
    const files: KeptSoundFile[] = []
    const account = await renderSoundFiles(
      order,
      { bankOf, oggWasm },
      ({ bytes, ...file }, index) => {
        files[index] = { ...file, blob: new Blob([bytes as BlobPart], { type: soundTypes[order.form] }) }
      },
      onSeconds,
    )
    return { ...account, files }
  },
}

export type SoundFilesApi = typeof api
expose(api)
