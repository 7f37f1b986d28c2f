import { type ListenerPreset, listenerSettingsOf } from './listenerSettings'
import {
  chordsByChance,
  compareNotes,
  inRoom,
  type KnownNote,
  lineByChance,
  playedBySampler,
  textureByChance,
  usualManner,
  withNoise,
} from './playedLines.testing'
import { type ChordListener, readSound, usualConfidence } from './readSound'

/**
 * How exact listening is, instrument by instrument: lines and chords by chance, played by a sampler and a bank that nothing here was
 * fitted to (fluidsynth, timgm6mb-soundfont), dry and in a noisy room. F1 is the usual measure of transcription: right key, onset
 * within 50 ms.
 */
const sampleRate = 44_100

export interface ListeningScore {
  readonly name: string
  /** F1, dry and in a noisy room. */
  readonly clean: number
  readonly room: number
}

export interface LineScore extends ListeningScore {
  /** Notes of the key that came before them, and how many of these were found, dry. */
  readonly again: number
  readonly againFound: number
}

/** Name, General MIDI program from 0, lowest and highest key, preset. */
const players: readonly [string, number, number, number, ListenerPreset][] = [
  ['nylon guitar', 24, 40, 76, 'guitar'],
  ['steel guitar', 25, 40, 76, 'guitar'],
  ['electric guitar', 27, 40, 76, 'guitar'],
  ['overdriven guitar', 29, 40, 76, 'guitar'],
  ['fingered bass', 33, 28, 55, 'bass'],
  ['picked bass', 34, 28, 55, 'bass'],
  ['acoustic bass', 32, 28, 55, 'bass'],
  ['violin', 40, 55, 88, 'string'],
  ['viola', 41, 48, 79, 'string'],
  ['cello', 42, 36, 69, 'string'],
  ['voice', 53, 48, 76, 'voice'],
  ['trumpet', 56, 54, 82, 'wind'],
  ['trombone', 57, 40, 69, 'wind'],
  ['horn', 60, 46, 77, 'wind'],
  ['alto saxophone', 65, 49, 80, 'wind'],
  ['tenor saxophone', 66, 44, 75, 'wind'],
  ['oboe', 68, 58, 86, 'wind'],
  ['bassoon', 70, 34, 67, 'wind'],
  ['clarinet', 71, 50, 84, 'wind'],
  ['flute', 73, 60, 93, 'wind'],
  ['ocarina', 79, 60, 93, 'wind'],
]

const chordPieces: readonly [string, KnownNote[], number][] = [
  ['piano chords', chordsByChance(901, 16, 45, 84), 0],
  ['electric piano chords', chordsByChance(902, 16, 45, 84), 4],
  ['nylon guitar chords', chordsByChance(903, 16, 40, 76), 24],
  ['steel guitar chords', chordsByChance(904, 16, 40, 76), 25],
  ['piano with melody', textureByChance(905, 20), 1],
  ['nylon guitar with melody', textureByChance(906, 20), 24],
  ['string ensemble chords', chordsByChance(907, 16, 45, 84), 48],
]

function heard(samples: Float32Array, preset: ListenerPreset, chords: ChordListener | null) {
  const reading = readSound({ sampleRate, channels: [samples] }, listenerSettingsOf[preset], chords)
  let step = reading.next()
  while (!step.done) step = reading.next()
  return step.value.notes.filter(({ confidence }) => !chords || confidence >= usualConfidence)
}

const inNoisyRoom = (samples: Float32Array) => withNoise(inRoom(samples, sampleRate, 1.2, 0.25), 25, 5)

/** What is heard of a line, beside what was played. */
export function scoreOfLine(
  name: string,
  notes: readonly KnownNote[],
  sound: Float32Array,
  preset: ListenerPreset,
): LineScore {
  const clean = compareNotes(notes, heard(sound, preset, null))
  const again = notes.filter((note, index) => notes[index - 1]?.key === note.key)
  return {
    name,
    clean: clean.f1,
    room: compareNotes(notes, heard(inNoisyRoom(sound), preset, null)).f1,
    again: again.length,
    againFound: again.filter((note) => !clean.missed.includes(note)).length,
  }
}

export interface SampledLine {
  readonly name: string
  readonly notes: readonly KnownNote[]
  readonly sound: Float32Array
  readonly preset: ListenerPreset
}

/** A line of each instrument, one at a time. */
export function* sampledLines(): Generator<SampledLine> {
  for (const [name, program, lowKey, highKey, preset] of players) {
    const notes = lineByChance(program * 13 + 5, 60, { ...usualManner, lowKey, highKey })
    yield { name, notes, sound: playedBySampler(notes, program), preset }
  }
}

/** What is heard of chords and of melodies over them, with the network for several notes at once. */
export function scoresOfChords(
  hear: ChordListener,
  isAsked: (name: string) => boolean = () => true,
): ListeningScore[] {
  return chordPieces
    .filter(([name]) => isAsked(name))
    .map(([name, notes, program]) => {
      const sound = playedBySampler(notes, program)
      return {
        name,
        clean: compareNotes(notes, heard(sound, 'any', hear)).f1,
        room: compareNotes(notes, heard(inNoisyRoom(sound), 'any', hear)).f1,
      }
    })
}

/** The mean over instruments, in one of the two manners. */
export function meanOf(scores: readonly ListeningScore[], manner: 'clean' | 'room'): number {
  return scores.reduce((sum, score) => sum + score[manner], 0) / scores.length
}
