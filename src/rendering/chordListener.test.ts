import { meanOf, scoresOfChords } from '@/core/pitch/listeningScores.testing'
import { chordModel } from './chordListener'

// Right key and onset within 50 ms, on a sampler and a bank that nothing was fitted to (fluidsynth, timgm6mb-soundfont).
// An ensemble of bowed strings has no beginnings to be heard: it is in the report, and not judged here.
test('chords of three to six notes and melodies over them: F1 of 0.90 and above, dry and in a noisy room', async () => {
  const { hear } = await chordModel()
  const judged = scoresOfChords(hear, (name) => !name.includes('ensemble'))
  expect([meanOf(judged, 'clean') >= 0.9, judged]).toEqual([true, judged])
  expect([meanOf(judged, 'room') >= 0.9, judged]).toEqual([true, judged])
})
