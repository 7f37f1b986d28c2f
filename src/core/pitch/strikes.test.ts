import { blownPipe } from '../sound/models/blownPipe'
import { pluckedString } from '../sound/models/pluckedString'
import { sungVowel } from '../sound/models/sungVowel'
import { resample } from '../sound/resample'
import { frequencyOfKey, listenerSettingsOf, listeningRate } from './listenerSettings'
import { chanceFrom, type KnownNote, playedByModel } from './playedLines.testing'
import { listenTo } from './soundFrames'
import { strikesIn } from './strikes'

const models = { pluckedString, blownPipe, sungVowel }
const rate = 44_100

/** What is found in a sound of one key, from the first beginning on. */
function found(samples: Float32Array, key: number, fromMs: number, toMs: number) {
  const listening = listenTo(resample(samples, rate, listeningRate), listenerSettingsOf.any)
  let step = listening.next()
  while (!step.done) step = listening.next()
  return strikesIn(step.value, frequencyOfKey(key, 440), { fromMs, toMs, leastMs: 70, sure: 0.65 })
}

// By models of instruments, none of which the trees were fitted to.
describe('a key that is struck anew', () => {
  test.each(Object.entries(models))('%s: once for each time, whatever the key', (_, model) => {
    const chance = chanceFrom(7)
    for (const key of [50, 61, 72]) {
      let onsetMs = 100
      const notes: KnownNote[] = Array.from({ length: 5 }, () => {
        const distanceMs = 150 + chance() * 300
        const note = { key, velocity: 60 + chance() * 50, onsetMs, durationMs: distanceMs * 0.9 }
        onsetMs += distanceMs
        return note
      })
      const strikes = found(playedByModel(notes, model), key, 100, onsetMs - 60)
      const missed = notes.slice(1).filter((note) => strikes.every((strike) => apartMs(strike, note) > 50))
      const surplus = strikes.filter((strike) => notes.every((note) => apartMs(strike, note) > 50))
      // The pipe takes a tenth of a second to speak, and is uneven meanwhile.
      const most = model === blownPipe ? 1 : 0
      expect([key, missed, surplus.slice(most)]).toEqual([key, [], []])
    }
  })

  test.each(Object.entries(models))('%s: one that is held for long was struck once', (_, model) => {
    for (const key of [50, 57, 69]) {
      const samples = model({ key, velocity: 85, seconds: 2, offCents: 8, seed: key }, rate)
      const speaksMs = model === blownPipe ? 100 : 0
      expect([key, found(samples, key, speaksMs, 1900)]).toEqual([key, []])
    }
  })

  test('of silence, of a moment and of less than nothing, none', () => {
    expect(found(new Float32Array(rate), 60, 0, 900)).toEqual([])
    expect(found(new Float32Array(rate), 60, 100, 120)).toEqual([])
    expect(found(new Float32Array(0), 60, 100, 0)).toEqual([])
  })
})

const apartMs = (strike: { onsetMs: number }, note: KnownNote) => Math.abs(strike.onsetMs - note.onsetMs)
