import abcjs from 'abcjs'
import fc from 'fast-check'
import { lastTick } from '../../time/units'
import { readAbc } from './abc'
import { readLists } from './lists'
import { keyOfName } from './typedPart'

const whole = 40_320

describe('lists of pitches and lengths', () => {
  test('notes, chords, rests, lengths, force, options of a part', () => {
    const { parts, problems } = readLists(
      'part Harbour flute, channel 3, program 74, gate 80, offset -12\nC4 1/4 D#4 1/8. r 1/16 C4+E4+G4 1/2 v40 60 1/8t 61 # remark\npart Bell\nBb3 1/4+1/8',
    )
    expect(problems).toEqual([])
    expect(parts[0]).toMatchObject({
      name: 'Harbour flute',
      channel: 3,
      program: 73,
      gate: 80,
      offsetMs: -12,
    })
    expect(
      parts[0]!.notes.map(({ onsetTicks, durationTicks, keys, velocity }) => [
        onsetTicks,
        durationTicks,
        keys,
        velocity,
      ]),
    ).toEqual([
      [0, 10_080, [60], 80],
      [10_080, 7560, [63], 80],
      [20_160, 20_160, [60, 64, 67], 80],
      [40_320, 3360, [60], 40],
      [43_680, 3360, [61], 40],
    ])
    expect(parts[1]).toMatchObject({
      name: 'Bell',
      channel: null,
      notes: [{ onsetTicks: 0, durationTicks: 15_120, keys: [58] }],
    })
  })

  test('what is wrong is said with line and column, and the rest is read', () => {
    const { parts, problems } = readLists('part A, gate 500\nC4 1/4 H4 1/4\nE4 1/0 F4\n1/4')
    expect(problems.map(({ line, column }) => [line, column])).toEqual([
      [1, 9],
      [2, 8],
      [2, 11],
      [3, 4],
    ])
    expect(parts[0]!.notes.map((note) => note.keys[0])).toEqual([60, 64, 65])
  })

  test('any text is read without an error of its own', () => {
    fc.assert(fc.property(fc.string({ unit: 'grapheme', maxLength: 300 }), (text) => void readLists(text)))
    expect(readLists('')).toEqual({ parts: [], problems: [] })
  })

  test('a hundred thousand lines are read; a text that is something else stops early', () => {
    const { parts, problems } = readLists('C4 1/8 E4 1/16 G4+C5 1/16\n'.repeat(100_000))
    expect(problems).toEqual([])
    expect(parts[0]!.notes).toHaveLength(300_000)
    expect(readLists('once upon a time\n'.repeat(100_000)).problems.length).toBeLessThan(110)
  })

  test('what lies beyond the end of any piece is said, once for each part', () => {
    const { parts, problems } = readLists(`${'C4 100/1\n'.repeat(1000)}part Second\nC4 1/4`)
    expect(problems).toEqual([{ line: 498, column: 1, text: 'This is longer than a piece can be' }])
    expect(parts[0]!.notes.at(-1)!.onsetTicks).toBeLessThanOrEqual(lastTick)
    expect(parts[1]!.notes).toHaveLength(1)
  })

  test('note names: C4 is key 60, A4 is 69', () => {
    expect([
      keyOfName('C4'),
      keyOfName('A4'),
      keyOfName('B♭3'),
      keyOfName('C-1'),
      keyOfName('G9'),
      keyOfName('A9'),
    ]).toEqual([60, 69, 58, 0, 127, null])
  })
})

/** Onset and length in whole notes, and the key, as abcjs plays a tune: an independent reader. */
function playedByAbcjs(text: string): [number, number, number][] {
  const [tune] = abcjs.parseOnly(text) as unknown as [
    {
      setUpAudio(options: object): {
        tracks: { cmd: string; pitch?: number; start?: number; duration?: number }[][]
      }
    },
  ]
  const notes: [number, number, number][] = []
  for (const track of tune.setUpAudio({ chordsOff: true }).tracks)
    for (const event of track)
      if (event.cmd === 'note') notes.push([round(event.start!), round(event.duration!), event.pitch!])
  return sorted(notes)
}

function playedHere(text: string): [number, number, number][] {
  return sorted(
    readAbc(text).parts.flatMap((part) =>
      part.notes.flatMap(({ onsetTicks, durationTicks, keys }) =>
        keys.map((key): [number, number, number] => [
          round(onsetTicks / whole),
          round(durationTicks / whole),
          key,
        ]),
      ),
    ),
  )
}

const round = (value: number) => Math.round(value * 10_000) / 10_000
const sorted = (notes: [number, number, number][]) => notes.sort((a, b) => a[0] - b[0] || a[2] - b[2])

describe('ABC notation', () => {
  const tunes: Readonly<Record<string, string>> = {
    plain: 'X:1\nT:Lantern song\nM:4/4\nL:1/8\nK:C\nC2 D2 E F G A | B c d e f2 g2 | c8 |',
    'keys and accidentals': 'X:1\nM:4/4\nL:1/4\nK:D\nF C ^G =F | F c B _B | B4 |',
    'minor and modes': 'X:1\nM:4/4\nL:1/4\nK:Em\nF G A B | [K:D dor] F C B A | [K:Bb] B E A F |',
    'lengths and rests': 'X:1\nM:4/4\nL:1/8\nK:G\nG2 A/2B/2 c3/2 d/ z2 | G4 z4 | A//B//c/ d z2 z/ e3/2 f |',
    octaves: "X:1\nM:4/4\nL:1/4\nK:C\nC, C c c' | C,, c'' G, g' |",
    'broken rhythm': 'X:1\nM:4/4\nL:1/8\nK:C\nC>D E<F G>>A B<<c | C2>D2 E2<F2 |',
    tuplets: 'X:1\nM:4/4\nL:1/8\nK:C\n(3CDE (3FGA B2 c2 | (5CDEFG A2 z2 (2AB |',
    'tuplets in compound meter': 'X:1\nM:6/8\nL:1/8\nK:C\n(2CD EFG | (4CDEF GAB |',
    chords: 'X:1\nM:4/4\nL:1/4\nK:F\n[FAc]2 [B,DF] [CEG] | [CEGB]4 |',
    ties: 'X:1\nM:4/4\nL:1/4\nK:C\nC D E-E | E2-E2- | E G A c |',
    repeats: 'X:1\nM:4/4\nL:1/4\nK:C\n|: C D E F | G A B c :| c B A G |: C4 :|',
    endings: 'X:1\nM:4/4\nL:1/4\nK:C\n|: C D E F |1 G4 :|2 A4 |: c4 | B4 :|',
    voices: 'X:1\nM:4/4\nL:1/4\nK:C\nV:1\nC D E F | G4 |\nV:2\nC,2 G,2 | C,4 |',
    'passed over': 'X:1\nM:4/4\nL:1/4\nK:C\n"Am" C !mp! D (E F) | A !p! B .c "G" d |',
    'a full bar of rest': 'X:1\nM:3/4\nL:1/4\nK:C\nC D E | z3 | C2 E |',
  }

  test.each(Object.entries(tunes))('%s: the same notes as an independent reader', (_, text) => {
    expect(readAbc(text).problems).toEqual([])
    expect(playedHere(text)).toEqual(playedByAbcjs(text))
  })

  test('grace notes and ornaments add no notes', () => {
    expect(playedHere('X:1\nL:1/4\nK:C\n{g}A !trill!B ~c {/fg}d')).toHaveLength(4)
  })

  test('parts carry their names and options', () => {
    const { parts } = readAbc(
      'X:1\nL:1/4\nK:C\nV:1 name="Pier flute" program=74 channel=5 gate=70 offset=-8\nC D\nV:2\nE F',
    )
    expect(parts[0]).toMatchObject({ name: 'Pier flute', program: 73, channel: 5, gate: 70, offsetMs: -8 })
    expect(parts[1]).toMatchObject({ name: 'Part 2', program: null })
  })

  test('what is wrong is said with line and column, and the rest is read', () => {
    const { parts, problems } = readAbc('X:1\nL:one\nK:Q\nC D ? E | [CE\nF ] G')
    expect(problems.map(({ line, column }) => [line, column])).toEqual([
      [2, 1],
      [3, 1],
      [4, 5],
      [4, 11],
      [5, 3],
    ])
    expect(parts[0]!.notes.length).toBeGreaterThanOrEqual(5)
  })

  test('any text is read without an error of its own', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[A-Ga-g|:[\]()0-9/<>zKVLM'",^_= -]{0,120}$/), (text) => {
        readAbc(`X:1\nK:C\n${text}`)
        readAbc(text)
      }),
      { numRuns: 500 },
    )
  })

  test('a hundred thousand lines stop at a bound, and it is said', () => {
    const { problems } = readAbc(`X:1\nK:C\n${'CDEF GABc |\n'.repeat(100_000)}`)
    expect(problems[0]!.text).toContain('More than')
  })

  test('nested repeats and endings never run for ever', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('C ', '|: ', ':| ', '|1 ', '[2 ', ':|2 ', '| ', ':: '), { maxLength: 30 }),
        (tokens) => {
          expect(
            readAbc(`X:1\nK:C\n${tokens.join('')}`).parts.flatMap((part) => part.notes).length,
          ).toBeLessThan(2000)
        },
      ),
    )
  })
})
