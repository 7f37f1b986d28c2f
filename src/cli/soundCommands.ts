import { basename, extname } from 'node:path'
import { openFile } from '@/core/formats/openFile'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'
import { heardMidi } from '@/core/pitch/heardMidi'
import {
  highestConcertHz,
  listenerPresets,
  listenerSettingsOf,
  lowestConcertHz,
  programOf,
} from '@/core/pitch/listenerSettings'
import { readSound, usualConfidence } from '@/core/pitch/readSound'
import { remarkOf } from '@/core/pitch/soundRemarks'
import { readWav } from '@/core/sound/readWav'
import { sampleBits, sampleRates } from '@/core/sound/wav'
import { identityOf, type Options, required, UsageError } from './commandLine'
import { readInput, writeOutput } from './files'
import type { Terminal } from './terminal'

/** Sound of a piece, of the whole and of each part. */
export async function render(file: string, options: Options, terminal: Terminal) {
  const out = required(options.out, '--out OUT.wav')
  const form = extname(out).toLowerCase() === '.ogg' ? 'ogg' : 'wav'
  const bits = sampleBits.find((value) => String(value) === (options.bits ?? '24'))
  const sampleRate = sampleRates.find((value) => String(value) === (options.rate ?? '48000'))
  if (!bits) throw new UsageError(`--bits takes ${sampleBits.join(' or ')}, not "${options.bits}"`)
  if (!sampleRate) throw new UsageError(`--rate takes ${sampleRates.join(' or ')}, not "${options.rate}"`)
  const { project, warnings } = openFile(readInput(file), identityOf(file))
  for (const warning of warnings) terminal.say(`${warning}\n`)
  const { writeSound } = await import('@/rendering/writeSound')
  return writeSound(project, out, options.stems ?? null, { form, bits, sampleRate }, writeOutput)
}

/** A recording to notes. */
export async function listen(file: string, options: Options) {
  const out = required(options.out, '--out OUT.mid')
  const preset = listenerPresets.find((each) => each === (options.preset ?? 'any'))
  if (!preset) throw new UsageError(`--preset takes ${listenerPresets.join(', ')}, not "${options.preset}"`)
  const concertHz = Number(options.a4 ?? 440)
  if (!(concertHz >= lowestConcertHz && concertHz <= highestConcertHz))
    throw new UsageError(
      `--a4 takes a frequency from ${lowestConcertHz} to ${highestConcertHz}, not "${options.a4}"`,
    )
  const sound = readWav(readInput(file))
  const { chordModel } = await import('@/rendering/chordListener')
  const chords = options.chords !== undefined ? await chordModel() : null
  const reading = readSound(sound, { ...listenerSettingsOf[preset], concertHz }, chords?.hear ?? null)
  let step = reading.next()
  while (!step.done) step = reading.next()
  const { seconds, tuningCents, problems } = step.value
  const notes = step.value.notes.filter(({ confidence }) => !chords || confidence >= usualConfidence)
  writeOutput(out, writeMidiFile(heardMidi(basename(file, extname(file)), notes, programOf[preset])))
  const warnings = problems.map((problem) => remarkOf[problem])
  if (notes.length === 0 && warnings.length === 0) warnings.push('No note was found.')
  const confidence = notes.reduce((sum, note) => sum + note.confidence, 0)
  return {
    seconds: rounded(seconds, 3),
    notes: notes.length,
    meanConfidence: notes.length === 0 ? 0 : rounded(confidence / notes.length, 3),
    tuningCents: rounded(tuningCents, 1),
    warnings,
  }
}

const rounded = (value: number, places: number) => Math.round(value * 10 ** places) / 10 ** places
