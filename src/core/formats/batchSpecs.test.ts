import { createDemo } from '../demo/harbourEvening'
import { soundingNotes } from '../project/create'
import { generateFromSpec, generateFromText, printEveryTrack, readChain, SpecError } from './batchSpecs'

const lanes = (fields: object = {}) =>
  JSON.stringify({
    bars: 2,
    meter: '3/4',
    work: {
      kind: 'lanes',
      lanes: [
        {
          id: 'a',
          name: 'Bells',
          isOn: true,
          channel: 4,
          cable: null,
          rate: '1/4',
          direction: 'forwards',
          swing: 50,
          gate: 100,
          transpose: 0,
          force: 100,
          chance: 100,
          movements: [],
          pattern: { kind: 'steps', steps: [{ key: 72, velocity: 90, isTied: false, chance: 100 }] },
        },
      ],
    },
    ...fields,
  })

describe('a chain from a file', () => {
  test('needs no more than the kind of each effect; a seed given beside it holds for all', () => {
    const text = '[{"kind":"arpeggio"},{"kind":"probability","seed":5,"settings":{"share":40}}]'
    const own = readChain(text, undefined)
    expect(own.map((slot) => [slot.kind, slot.isOn, slot.seed])).toEqual([
      ['arpeggio', true, 1],
      ['probability', true, 5],
    ])
    expect(own[1]!.settings.share).toBe(40)
    expect(readChain(text, 9).map((slot) => slot.seed)).toEqual([9, 9])
  })

  test.each([
    ['{', /not JSON/],
    ['{"kind":"arpeggio"}', /array/],
    ['[{"settings":{}}]', /"0.kind"/],
    ['[{"kind":"probability","settings":{"share":101}}]', /"0.settings.share"/],
    [JSON.stringify(Array.from({ length: 33 }, () => ({ kind: 'arpeggio' }))), /32/],
  ])('%s is refused, with the place', (text, message) => {
    expect(() => readChain(text, undefined)).toThrow(SpecError)
    expect(() => readChain(text, undefined)).toThrow(message)
  })
})

describe('printing every track', () => {
  const demo = createDemo('demo', 0, 'computer-keyboard').project

  test('puts the results in the place of their sources and counts what went in', () => {
    const { project, notesIn, leftOut } = printEveryTrack(
      demo,
      readChain('[{"kind":"transpose","settings":{"octaves":1}}]', undefined),
    )
    expect([notesIn, leftOut]).toEqual([255, 0])
    const filled = demo.tracks.filter((track) => soundingNotes(track).length > 0)
    expect(
      project.tracks.filter((track) => soundingNotes(track).length > 0).map((track) => track.name),
    ).toEqual(filled.map((track) => track.name))
    for (const [index, track] of filled.entries())
      expect(soundingNotes(project.tracks[index]!).map((note) => note.key)).toEqual(
        soundingNotes(track).map((note) => note.key + 12),
      )
  })

  test('through an empty chain gives the piece itself', () => {
    expect(printEveryTrack(demo, []).project).toBe(demo)
  })
})

describe('a generator from a file', () => {
  test('plays for so many bars of its meter', () => {
    const { tracks, meters } = generateFromSpec(lanes())
    expect(meters[0]).toMatchObject({ numerator: 3, denominator: 4 })
    expect(tracks.map((track) => [track.name, track.channel])).toEqual([['Bells', 4]])
    expect(soundingNotes(tracks[0]!)).toHaveLength(6)
  })

  test.each([
    [lanes({ meter: '3/5' }), /"meter": should be like 3\/4/],
    [lanes({ bars: 0 }), /"bars"/],
    [lanes({ tempoBpm: 9999 }), /"tempoBpm"/],
    [JSON.stringify({ work: { kind: 'nothing' } }), /"work.kind"/],
    ['[]', /specification is wrong/],
  ])('%s is refused, with the place', (text, message) => {
    expect(() => generateFromSpec(text)).toThrow(SpecError)
    expect(() => generateFromSpec(text)).toThrow(message)
  })

  test('typed text of either kind plays; an empty one gives a piece without notes', () => {
    const notes = (text: string, language: 'abc' | 'lists') =>
      generateFromText('Typed', text, language).tracks.flatMap(soundingNotes)
    expect(notes('part A\nC4 1/4 E4+G4', 'lists').map((note) => note.key)).toEqual([60, 64, 67])
    expect(notes('X:1\nL:1/4\nK:C\nC E G', 'abc').map((note) => note.key)).toEqual([60, 64, 67])
    expect(notes('', 'lists')).toEqual([])
  })
})
