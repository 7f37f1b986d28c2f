import { execFileSync } from 'node:child_process'

interface Score {
  readonly name: string
  readonly clean: number
  readonly room: number
}
interface LineScore extends Score {
  readonly again: number
  readonly againFound: number
}

/** The listening report, in a process of its own: it is many times faster there. */
const { lines, chords } = JSON.parse(
  execFileSync('node', ['--import', 'tsx', 'bench/listeningReport.ts', '--json'], {
    encoding: 'utf8',
    maxBuffer: 1e8,
  }),
) as { lines: LineScore[]; chords: Score[] }

const mean = (scores: readonly Score[], manner: 'clean' | 'room') =>
  scores.reduce((sum, score) => sum + score[manner], 0) / scores.length

// Right key and onset within 50 ms, on a sampler and a bank that nothing was fitted to (fluidsynth, timgm6mb-soundfont).
describe('listening, over many instruments', () => {
  test('lines: F1 of 0.95 and above dry, 0.90 and above in a noisy room', () => {
    expect([mean(lines, 'clean') >= 0.95, lines]).toEqual([true, lines])
    expect([mean(lines, 'room') >= 0.9, lines]).toEqual([true, lines])
  })

  test('keys that are struck again are found, though some begin three milliseconds after the note before ends', () => {
    const again = lines.reduce((sum, line) => sum + line.again, 0)
    const found = lines.reduce((sum, line) => sum + line.againFound, 0)
    expect([found / again >= 0.95, found, again]).toEqual([true, found, again])
  })

  // An ensemble of bowed strings has no beginnings to be heard: it is in the report, and not judged here.
  test('chords of three to six notes and melodies over them: F1 of 0.90 and above, dry and in a noisy room', () => {
    const judged = chords.filter(({ name }) => !name.includes('ensemble'))
    expect([mean(judged, 'clean') >= 0.9, judged]).toEqual([true, judged])
    expect([mean(judged, 'room') >= 0.9, judged]).toEqual([true, judged])
  })
})
