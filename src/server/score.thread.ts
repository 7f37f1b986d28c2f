import { compressMusicXml } from '@/core/formats/compressedMusicXml'
import { ImportError } from '@/core/formats/midiToProject'
import { writeMusicXml } from '@/core/formats/musicXml'
import { scoreFromMidi } from '@/core/formats/scoreFromMidi'
import { MidiFileError } from '@/core/midi/standardMidiFile/model'
import type { ScoreAnswer, ScoreTask } from './scoreTask'

/** Work of the route handler on a thread of its own: a performance to notation. What is wrong with the file is the answer. */
export default function score({ bytes, request, isCompressed, limits }: ScoreTask): ScoreAnswer {
  try {
    const { score: written, headings, report } = scoreFromMidi(bytes, 'Score', request, limits)
    const musicXml = writeMusicXml(written, headings)
    return {
      isGood: true,
      body: isCompressed ? compressMusicXml(musicXml) : new TextEncoder().encode(musicXml),
      report,
    }
  } catch (error) {
    if (error instanceof MidiFileError || error instanceof ImportError)
      return { isGood: false, problem: error.message }
    throw error
  }
}
