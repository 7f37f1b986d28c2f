import { gaussian, randomSource } from '../../event/randomSource.testing'
import type { KnownVoiceNote } from './knownMusic.testing'
import type { LineNote } from './strokes'

/** As somebody plays at 100 bpm: errors of 15 ms, notes held for 85 to 105 % of their length. */
export function performed(notes: readonly KnownVoiceNote[], seed: number): KnownVoiceNote[] {
  const random = randomSource(seed)
  const error = () => 0.025 * gaussian(random)
  return notes.map(({ onsetQuarters, endQuarters, ...note }) => {
    const begin = Math.max(0, onsetQuarters + error())
    const held = (endQuarters - onsetQuarters) * (0.85 + 0.2 * random())
    return {
      ...note,
      onsetQuarters: begin,
      endQuarters: Math.max(begin + 0.03, onsetQuarters + held + error()),
    }
  })
}

/** Notes that follow each other in a voice, as pairs of indexes; notes struck together follow and are followed together. */
function linksOf(notes: readonly LineNote[], voiceOf: readonly number[]): Set<string> {
  const links = new Set<string>()
  for (const voice of new Set(voiceOf)) {
    const line = notes
      .map((_, index) => index)
      .filter((index) => voiceOf[index] === voice)
      .sort((a, b) => notes[a]!.onsetQuarters - notes[b]!.onsetQuarters)
    const strokes: number[][] = []
    for (const index of line) {
      const last = strokes.at(-1)
      if (last && notes[index]!.onsetQuarters - notes[last[0]!]!.onsetQuarters < 0.1) last.push(index)
      else strokes.push([index])
    }
    for (const [place, stroke] of strokes.entries())
      for (const from of strokes[place - 1] ?? []) for (const to of stroke) links.add(`${from} ${to}`)
  }
  return links
}

/** Note-to-note links, as F1 (A. McLeod and M. Steedman, 2016), and the share of notes in the right voice. */
export function judge(notes: readonly KnownVoiceNote[], voiceOf: readonly number[]) {
  const [known, found] = [
    linksOf(
      notes,
      notes.map(({ voice }) => voice),
    ),
    linksOf(notes, voiceOf),
  ]
  const right = [...found].filter((link) => known.has(link)).length
  const share = notes.filter(({ voice }, index) => voice === voiceOf[index]).length / notes.length
  return { f1: (2 * right) / (known.size + found.size), share }
}
