import fc from 'fast-check'
import { createDemo } from '../../demo/harbourEvening'
import type { Note } from '../../event/note'
import { readAbc as typedAbc } from '../../generators/typed/abc'
import { inventedMusic } from '../../notation/writtenMusic/inventedMusic.testing'
import { performedScore } from '../../notation/writtenMusic/performedScore'
import { newClip, soundingNotes } from '../../project/create'
import { headingsOf, scoreOf } from '../../project/onPage'
import { proveAbc } from '../../proof/proveAbc'
import { scoreToProject } from '../scoreToProject'
import { writeAbc } from '../writeAbc'
import { isAbc, readAbc } from './readAbc'

const identity = { id: 'p', name: 'p', nowMs: 0 }
const opened = (text: string) => {
  const { music, warnings } = readAbc(text)
  const { project, warnings: further } = scoreToProject(music, identity)
  return { project, music, warnings: [...warnings, ...further].filter((each) => !each.includes('no tempo')) }
}
const tune = (body: string, head = '') => `X:1\nT:Ebb\n${head}M:4/4\nL:1/8\nQ:1/4=100\nK:D\n${body}\n`
const placed = (text: string) =>
  soundingNotes(opened(text).project.tracks[0]!).map(({ onsetTicks, key }) => [onsetTicks / 5040, key])

describe('tunes in ABC notation', () => {
  test('are read as they are written', () => {
    const { music, warnings, project } = opened(
      tune(
        '"Bm"!mf!(B2 c>d) {fg}!trill!e2 (3fga | [DFA]4- [DFA]2 z2 || [M:3/4][K:G] !<(!g2 .a2 !<)!b2 |]\nw: Lan-terns down by the quay_ side',
        'C:Nobody\n',
      ),
    )
    expect(warnings).toEqual([])
    expect(music.headings).toMatchObject({ title: 'Ebb', composer: 'Nobody' })
    expect(project.tempos[0]).toMatchObject({ tempoBpm: 100 })
    const score = scoreOf(project)
    const part = score.parts[0]!
    expect(score.measures.map(({ numerator, lengthTicks }) => [numerator, lengthTicks / 5040])).toEqual([
      [4, 8],
      [4, 8],
      [3, 6],
    ])
    expect(score.keys.map(({ fifths }) => fifths)).toEqual([2, 1])
    expect(score.chordSymbols.map(({ text }) => text)).toEqual(['Bm'])
    expect(score.barLines).toMatchObject([{ bar: 1, style: 'double' }])
    const [first, second, third] = part.measures.map((bar) =>
      bar[0]!.elements.map((element) =>
        element.kind === 'rest'
          ? ['rest', element.value.type]
          : [
              element.notes.map(({ pitch }) => `${pitch.step}${pitch.alter || ''}${pitch.octave}`).join(' '),
              `${element.value.type}${'.'.repeat(element.value.dots)}${element.tuplet ? ' in three' : ''}`,
              ...element.articulations,
              ...(element.graces.length > 0 ? [`${element.graces.length} small`] : []),
              ...(element.lyric ? [element.lyric.text] : []),
            ],
      ),
    )
    expect(first).toEqual([
      ['B4', 'quarter', 'Lan'],
      ['C15', 'eighth.', 'terns'],
      ['D5', '16th', 'down'],
      ['E5', 'quarter', 'trill', '2 small', 'by'],
      ['F15', 'eighth in three', 'the'],
      ['G5', 'eighth in three', 'quay'],
      ['A5', 'eighth in three'],
    ])
    expect(second).toEqual([
      ['D4 F14 A4', 'half', 'side'],
      ['D4 F14 A4', 'quarter'],
      ['rest', 'quarter'],
    ])
    expect(third).toEqual([
      ['G5', 'quarter'],
      ['A5', 'quarter', 'staccato'],
      ['B5', 'quarter'],
    ])
    expect(part.slurs).toHaveLength(1)
    expect(part.dynamics.levels).toMatchObject([{ tick: 0, mark: 'mf' }])
    expect(part.dynamics.hairpins).toMatchObject([{ kind: 'crescendo' }])
  })

  test('repeats and endings are played out; a sign holds to the end of its bar', () => {
    expect(placed(tune('|: ^G4 G4 |1 A8 :|2 B8 |]'))).toEqual([
      [0, 68],
      [4, 68],
      [8, 69],
      [16, 68],
      [20, 68],
      [24, 71],
    ])
  })

  test('da capo and coda: the sign before the jump is where one leaves', () => {
    const keys = (body: string) => placed(tune(body)).map(([, key]) => key)
    expect(keys('A8 | B8 !coda!| d8 !D.C.alcoda!| !coda!e8 |]')).toEqual([69, 71, 74, 69, 71, 76])
    expect(keys('A8 | B8 | !coda!d8 | e8 !D.C.alcoda!| !coda!f8 |]')).toEqual([69, 71, 74, 76, 69, 71, 78])
  })

  test('voices on staves: two in a brace are one part, a voice that rests for a line is silent', () => {
    const { project } = opened(
      `X:1\nT:Quay\nM:2/4\nL:1/4\n%%score {R | L} F\nV:R clef=treble name="Piano"\nV:L clef=bass\nV:F clef=treble name="Flute" transpose=-2\nK:C\n[V:R] c d | e f |\n[V:L] C, D, | E, F, |\n[V:F] g a | b c' |\n`,
    )
    const score = scoreOf(project)
    expect(project.tracks.map(({ name }) => name)).toEqual(['Piano', 'Flute'])
    expect(score.parts.map(({ clefs }) => clefs)).toEqual([['treble', 'bass'], ['treble']])
    expect(soundingNotes(project.tracks[1]!).map(({ key }) => key)).toEqual([77, 79, 81, 82])
  })

  test('bars of rests, voices within a bar, a pickup', () => {
    const { project } = opened(tune('A2 | d8 & f8 | Z2 | [I:MIDI program 73] e8 |'))
    expect(scoreOf(project).measures.map(({ lengthTicks }) => lengthTicks / 5040)).toEqual([2, 8, 8, 8, 8])
    expect(project.tracks[0]!.instrument).toEqual({ kind: 'program', program: 73 })
  })

  // The reader of typed music here, written by itself from the standard, plays the same notes.
  test('plain tunes are played as another reader of the standard plays them', () => {
    const letters = fc.constantFrom('C', 'D', 'E', 'F', 'G', 'A', 'B', 'c', 'd', 'e', 'f', 'g', "a'", 'B,')
    const sign = fc.constantFrom('', '', '', '^', '_', '=')
    const length = fc.constantFrom('', '2', '3', '/2', '4')
    const note = fc.tuple(sign, letters, length).map((all) => all.join(''))
    const thing = fc.oneof(
      { weight: 6, arbitrary: note },
      {
        weight: 1,
        arbitrary: fc
          .tuple(note, note, note)
          .map((three) => `(3${three.map((each) => each.replace(/[\d/]+$/, '')).join('')}`),
      },
      { weight: 1, arbitrary: fc.constant('z2') },
      { weight: 1, arbitrary: fc.tuple(letters, letters).map(([a, b]) => `[${a}${b === a ? 'F,' : b}]2`) },
    )
    const bar = fc.array(thing, { minLength: 1, maxLength: 6 }).map((things) => things.join(' '))
    fc.assert(
      fc.property(
        fc.array(bar, { minLength: 1, maxLength: 6 }),
        fc.constantFrom('C', 'D', 'Eb', 'Am', 'F#m'),
        (bars, key) => {
          const text = `X:1\nT:Any\nM:none\nL:1/8\nK:${key}\n${bars.join(' | ')} |\n`
          const other = typedAbc(text).parts.flatMap(({ notes }) =>
            notes.flatMap((each) => each.keys.map((key) => `${each.onsetTicks} ${key}`)),
          )
          const own = performedScore(readAbc(text).music, 1).score.parts.flatMap((part, partIndex) =>
            part.measures.flatMap((voices, index) =>
              voices.flatMap(({ elements }) =>
                elements.flatMap((element) =>
                  element.kind === 'chord'
                    ? element.notes.flatMap(({ key: sounding, tiesFromPrevious }) =>
                        tiesFromPrevious
                          ? []
                          : [`${startOf(text, index, partIndex) + element.startTicks} ${sounding}`],
                      )
                    : [],
                ),
              ),
            ),
          )
          expect(own.sort()).toEqual(other.sort())
        },
      ),
      { numRuns: 150 },
    )
  })

  test('whatever is on a page is written and read back note for note', () => {
    fc.assert(
      fc.property(inventedMusic, (music) => {
        const { project } = scoreToProject(music, identity)
        const [score, headings] = [scoreOf(project), headingsOf(project)]
        const { text } = writeAbc(score, headings)
        const { differences } = proveAbc(text, score, headings)
        expect([differences, differences.length > 0 ? text : '']).toEqual([[], ''])
      }),
      { numRuns: 80, endOnFailure: true },
    )
  })

  test('meters and keys that change are written in every voice of a staff', () => {
    const note = (id: number, beat: number, lengthBeats: number, key: number): Note => ({
      id,
      onsetTicks: beat * 10_080,
      durationTicks: lengthBeats * 10_080,
      key,
      velocity: 80,
      releaseVelocity: 64,
      channel: 1,
      origin: { kind: 'drawn' },
    })
    const { project } = createDemo('demo', 0, 'keyboard')
    // A held note below what moves, so that there are two voices, with a change at the beginning of the second line.
    const notes = Array.from({ length: 8 }, (_, bar) => [
      note(100 + bar * 10, bar * 4, 4, 61),
      ...[0, 1, 2, 3].map((beat) => note(101 + bar * 10 + beat, bar * 4 + beat, 1, 72 + ((beat + bar) % 5))),
    ]).flat()
    const changed = {
      ...project,
      tracks: [{ ...project.tracks[0]!, clips: [newClip('two voices', 'Two voices', notes)] }],
      keys: [
        { tick: 0, fifths: 0, mode: 'major' as const },
        { tick: 4 * 40_320, fifths: -5, mode: 'major' as const },
      ],
      meters: [
        { tick: 0, numerator: 4, denominator: 4 as const },
        { tick: 4 * 40_320, numerator: 2, denominator: 4 as const },
      ],
    }
    const [score, headings] = [scoreOf(changed), headingsOf(changed)]
    expect(score.parts[0]!.measures[4]!.length).toBeGreaterThan(1)
    const { text } = writeAbc(score, headings)
    expect(text).toContain('] y [M:2/4][K:Db]')
    expect(proveAbc(text, score, headings).differences).toEqual([])
  })

  test('the demo goes out and comes in again', () => {
    const { project } = createDemo('demo', 0, 'keyboard')
    const [score, headings] = [scoreOf(project), headingsOf(project)]
    const { text, leftOut } = writeAbc(score, headings)
    expect(isAbc(text)).toBe(true)
    expect(proveAbc(text, score, headings)).toMatchObject({ isProved: true })
    expect(leftOut).toEqual(['signs of the pedal'])
    expect(opened(text).project.tracks.map(({ name }) => name)).toEqual(
      score.parts.map((_, index) => headings.parts[index]!.name),
    )
  })

  test('what is no tune, is cut off, or is strange is told', () => {
    expect(() => readAbc('')).toThrow('no notes')
    expect(() => readAbc('X:1\nT:Nothing\nK:C\n')).toThrow('no notes')
    expect(opened('X:1\nK:C\nC2 D2 | E').project.tracks).toHaveLength(1)
    const strange = opened('X:1\nM:4/4\nL:1/8\nK:C\nC2 D2 ¿ !nonsense!E2 F2 | X:\n')
    expect(strange.warnings.join(' ')).toContain('line 5')
    expect(isAbc('Dear K, X: is here')).toBe(false)
    const two = opened(`${tune('A8 |')}\n${tune('B8 |')}`)
    expect(two.warnings.join(' ')).toContain('2 tunes')
  })
})

const lengths = new Map<string, number[]>()
/** Where a bar begins, by the lengths that the reader gives its bars. */
function startOf(text: string, index: number, _part: number): number {
  let starts = lengths.get(text)
  if (!starts) {
    const { measures } = performedScore(readAbc(text).music, 1).score
    starts = measures.map(({ startTicks }) => startTicks)
    lengths.set(text, starts)
  }
  return starts[index]!
}
