import { expose, transfer } from 'comlink'
import type { SoundingModel } from '@/core/demo/soundingPlayers'
import { blownPipe } from '@/core/sound/models/blownPipe'
import type { PlayedTone } from '@/core/sound/models/playedTone'
import { pluckedString } from '@/core/sound/models/pluckedString'
import { sungVowel } from '@/core/sound/models/sungVowel'

const models: Readonly<Record<SoundingModel, (tone: PlayedTone, sampleRate: number) => Float32Array>> = {
  pluckedString,
  blownPipe,
  sungVowel,
}

const soundingApi = {
  sound(model: SoundingModel, tone: PlayedTone, sampleRate: number): Float32Array {
    const samples = models[model](tone, sampleRate)
    return transfer(samples, [samples.buffer])
  },
}
export type SoundingApi = typeof soundingApi

expose(soundingApi)
