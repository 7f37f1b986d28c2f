import { meanOf, sampledLines, scoreOfLine } from './listeningScores.testing'

// Right key and onset within 50 ms, on a sampler and a bank that nothing was fitted to (fluidsynth, timgm6mb-soundfont).
describe('lines of many instruments', () => {
  const lines = [...sampledLines()].map(({ name, notes, sound, preset }) =>
    scoreOfLine(name, notes, sound, preset),
  )

  test('F1 of 0.95 and above dry, 0.90 and above in a noisy room', () => {
    expect([meanOf(lines, 'clean') >= 0.95, lines]).toEqual([true, lines])
    expect([meanOf(lines, 'room') >= 0.9, lines]).toEqual([true, lines])
  })

  test('keys that are struck again are found, though some begin three milliseconds after the note before ends', () => {
    const again = lines.reduce((sum, line) => sum + line.again, 0)
    const found = lines.reduce((sum, line) => sum + line.againFound, 0)
    expect([found / again >= 0.95, found, again]).toEqual([true, found, again])
  })
})
