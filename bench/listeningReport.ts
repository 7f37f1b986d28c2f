/**
 * Prints how exact listening is, instrument by instrument: lines and chords by chance, played by a sampler and a bank that nothing here was
 * fitted to (fluidsynth, timgm6mb-soundfont), dry and in a noisy room. F1 is the usual measure of transcription: right key, onset within 50 ms.
 *
 * npm run report:listening [-- --json]
 */
import { LineFollower, notesOfFollowed } from '@/core/pitch/lineFollower'
import { type ListenerPreset, listenerSettingsOf, listeningRate } from '@/core/pitch/listenerSettings'
import { sampledLines, scoreOfLine, scoresOfChords } from '@/core/pitch/listeningScores.testing'
import {
  attackMsOf,
  compareNotes,
  type KnownNote,
  lineByChance,
  playedByModel,
  usualManner,
} from '@/core/pitch/playedLines.testing'
import { blownPipe } from '@/core/sound/models/blownPipe'
import { pluckedString } from '@/core/sound/models/pluckedString'
import { sungVowel } from '@/core/sound/models/sungVowel'
import { resample } from '@/core/sound/resample'
import { chordModel } from '@/rendering/chordListener'

const sampleRate = 44_100

/** What is left on a track of a line that is followed while it is played, at the level of a well-adjusted input. */
function followed(samples: Float32Array, preset: ListenerPreset) {
  let peak = 0
  for (const sample of samples) peak = Math.max(peak, Math.abs(sample))
  const input = resample(samples, sampleRate, listeningRate).map((sample) => (sample * 0.4) / peak)
  const follower = new LineFollower(listenerSettingsOf[preset])
  return notesOfFollowed([...follower.push(input), ...follower.end()])
}

/** Lines by models of instruments, which nothing was fitted to either; a note begins when it has a tenth of its loudest. */
const modelled: readonly [string, typeof pluckedString, number, number, ListenerPreset][] = [
  ['plucked string, modelled', pluckedString, 45, 76, 'guitar'],
  ['blown pipe, modelled', blownPipe, 50, 84, 'wind'],
  ['sung vowel, modelled', sungVowel, 45, 74, 'voice'],
]

async function report() {
  const scored = (
    name: string,
    notes: readonly KnownNote[],
    sound: Float32Array,
    preset: ListenerPreset,
  ) => ({
    ...scoreOfLine(name, notes, sound, preset),
    live: compareNotes(notes, followed(sound, preset)).f1,
  })
  const lines = [...sampledLines()].map(({ name, notes, sound, preset }) =>
    scored(name, notes, sound, preset),
  )
  const models = modelled.map(([name, model, lowKey, highKey, preset], index) => {
    const notes = lineByChance(index * 17 + 3, 60, { ...usualManner, lowKey, highKey })
    const sounded = notes.map((note, place) => {
      const tone = { ...note, seconds: note.durationMs / 1000, offCents: 0, seed: place }
      return { ...note, onsetMs: note.onsetMs + attackMsOf(model, tone) }
    })
    return scored(name, sounded, playedByModel(notes, model), preset)
  })
  return { lines, models, chords: scoresOfChords((await chordModel()).hear) }
}

report().then(({ lines, models, chords }) => {
  if (process.argv.includes('--json')) {
    process.stdout.write(JSON.stringify({ lines, models, chords }))
    return
  }
  const print = ({ name, clean, room, live }: { name: string; clean: number; room: number; live?: number }) =>
    process.stdout.write(
      `${name.padEnd(28)}${clean.toFixed(3)}  ${room.toFixed(3)}       ${live?.toFixed(3) ?? ''}\n`,
    )
  process.stdout.write(`${'F1'.padEnd(28)}dry    noisy room  while it is played, dry\n`)
  for (const line of [...lines, ...models]) print(line)
  for (const piece of chords) print(piece)
  const again = lines.reduce((sum, line) => sum + line.again, 0)
  const found = lines.reduce((sum, line) => sum + line.againFound, 0)
  process.stdout.write(`repeated notes found, dry: ${found} of ${again}\n`)
})
