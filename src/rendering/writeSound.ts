import { mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { distinctNames } from '@/core/formats/packFiles'
import type { Project } from '@/core/project/schema'
import { safeFileName } from '@/core/separation/splitFile'
import { renderSoundFiles } from '@/engine/soundFiles/soundFiles'
import { type SoundWish, soundOrderOf } from '@/engine/soundFiles/soundOrder'
import { inProject } from './projectFolder'

async function bankOf(id: string): Promise<ArrayBuffer> {
  const file = readFileSync(inProject('public', 'instruments', `${id}.sf3`))
  return file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength) as ArrayBuffer
}

async function oggWasm(): Promise<ArrayBuffer> {
  const file = readFileSync(inProject('node_modules', 'wasm-media-encoders', 'wasm', 'ogg.wasm'))
  return file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength) as ArrayBuffer
}

/**
 * Writes a piece as sound, by the same instruments as in the browser, and says what was written.
 *
 * @param stems folder for a file of each part; null: none are written
 */
export async function writeSound(
  project: Project,
  out: string,
  stems: string | null,
  wish: Omit<SoundWish, 'withStems'>,
  write: (file: string, bytes: Uint8Array) => void,
) {
  const order = soundOrderOf(project, { ...wish, withStems: stems !== null })
  const fileNames = distinctNames(order.stems.map(({ name }) => `${safeFileName(name)}.${wish.form}`))
  if (stems !== null) mkdirSync(stems, { recursive: true })
  const peaksDb: number[] = []
  const account = await renderSoundFiles(order, { bankOf, oggWasm }, ({ bytes, peakDb }, index) => {
    peaksDb[index] = peakDb
    write(index === 0 ? out : join(stems!, fileNames[index - 1]!), bytes)
  })
  return {
    ...account,
    peakDb: peaksDb[0],
    stems: order.stems.map(({ name }, index) => ({
      file: fileNames[index]!,
      name,
      peakDb: peaksDb[index + 1],
    })),
  }
}
