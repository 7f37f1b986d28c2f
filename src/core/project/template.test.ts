import { createDemo, seatStandIns } from '../demo/harbourEvening'
import { emptyProject } from './create'
import { applyTemplate, readTemplate, templateOf } from './template'

const set = {
  ...seatStandIns(emptyProject('p', 'P', 0)),
  countIn: 2,
  foldedGroups: ['Winds'],
  cables: ['Pier'],
  clock: { sendTo: ['cable:Pier'], follow: null },
}
const template = templateOf(set, 'set-up', 'Harbour six', 5)

describe('a set-up', () => {
  test('comes back the same in another project, through storage', () => {
    const used = applyTemplate(emptyProject('q', 'Q', 9), readTemplate(JSON.parse(JSON.stringify(template))))
    expect(used.sources).toEqual(set.sources)
    expect(used.tracks.map(({ name, routes, instrument }) => ({ name, routes, instrument }))).toEqual(
      set.tracks.map(({ name, routes, instrument }) => ({ name, routes, instrument })),
    )
    expect(used).toMatchObject({
      name: 'Q',
      countIn: 2,
      foldedGroups: ['Winds'],
      cables: ['Pier'],
      clock: set.clock,
    })
    expect(used.takes).toEqual([])
  })

  test('keeps the music of a project it is used in', () => {
    const demo = createDemo('demo', 0, 'computer-keyboard').project
    const used = applyTemplate(demo, template)
    expect(used.tracks.slice(0, 3).map((track) => track.clips)).toEqual(
      demo.tracks.slice(0, 3).map((track) => track.clips),
    )
    expect(used.tracks.slice(0, 3).every((track) => track.routes.length === 0)).toBe(true)
    expect(new Set(used.tracks.map((track) => track.id)).size).toBe(used.tracks.length)
  })

  test('that was saved before there were chains of effects, or before they could rest, is read', () => {
    const { templateVersion: _now, ...today } = JSON.parse(JSON.stringify(template))
    const tracks = today.tracks.map(
      ({ effectChanges: _c, doEffectsRest: _r, ...track }: object & Record<string, unknown>) => track,
    )
    const [first, ...others] = tracks
    const arpeggio = {
      id: 'a',
      kind: 'arpeggio',
      isOn: true,
      settings: { rate: '1/16', direction: 'down', octaves: 2, gate: 0.8, seed: 7 },
    }
    const oldest = {
      ...today,
      templateVersion: 1,
      tracks: [{ ...first, effects: [arpeggio] }, ...others],
      sources: today.sources.map(({ effects: _e, ...source }: Record<string, unknown>) => source),
    }
    const read = readTemplate(oldest)
    expect(read.tracks[0]!.effects).toMatchObject([
      { kind: 'arpeggio', seed: 7, settings: { order: 'down', octaves: 2, gate: 80 } },
    ])
    expect({ ...read, tracks: read.tracks.slice(1) }).toEqual({
      ...template,
      tracks: template.tracks.slice(1),
    })
    const withoutRest = today.tracks.map(({ doEffectsRest: _r, ...track }: Record<string, unknown>) => track)
    expect(readTemplate({ ...today, templateVersion: 1, tracks: withoutRest })).toEqual(template)
  })

  test('that was saved before parts had short names and brackets is read', () => {
    const stored = JSON.parse(JSON.stringify({ ...template, templateVersion: 4 }))
    for (const track of stored.tracks) {
      delete track.shortName
      delete track.bracket
    }
    expect(readTemplate(stored)).toEqual(template)
  })

  test('that is damaged says where', () => {
    expect(() => readTemplate({ ...template, countIn: 77 })).toThrow(/at "countIn"/)
    expect(() => readTemplate(null)).toThrow(/cannot be read/)
  })
})
