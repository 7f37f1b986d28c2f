import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Project } from '@/core/project/schema'
import { type RenderedSound, renderSoundFiles } from '@/engine/soundFiles/soundFiles'
import { type SoundWish, soundOrderOf } from '@/engine/soundFiles/soundOrder'

/** Where the instruments are: these commands are run from the project's own folder. */
const instruments = 'public/instruments'

async function bankOf(id: string): Promise<ArrayBuffer> {
  const file = readFileSync(join(instruments, `${id}.sf3`))
  return file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength) as ArrayBuffer
}

/** A piece as sound, by the same instruments as in the browser. */
export function renderedSound(project: Project, wish: SoundWish): Promise<RenderedSound> {
  return renderSoundFiles(soundOrderOf(project, wish), bankOf)
}
