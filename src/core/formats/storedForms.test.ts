import { readFileSync } from 'node:fs'
import { createDemo } from '../demo/harbourEvening'
import { soundingNotes } from '../project/create'
import { misfit } from '../project/fit'
import { headingsOf, scoreOf } from '../project/onPage'
import { projectSchemaVersion } from '../project/schema'
import { writeMusicXml } from './musicXml'
import { readProjectFile, writeProjectFile } from './projectFile'

/** Files of every form there was, each written by the program as it was in the last days of that form. */
const forms = Array.from({ length: projectSchemaVersion - 1 }, (_, index) => index + 1)
const storedFile = (form: number) =>
  readProjectFile(readFileSync(`tests/stored/form-${String(form).padStart(2, '0')}.voice`))
const demo = createDemo('demo', 0, 'computer-keyboard').project

describe.each(forms)('a stored piece of form %i', (form) => {
  const { project, takes, aside } = storedFile(form)
  const [flute, piano, harp] = project.tracks

  test('is whole, fits what is stored today, and is the same when it is stored again', () => {
    expect(aside).toEqual([])
    expect(misfit(project, null)).toBeNull()
    expect(takes).toHaveLength(1)
    const again = readProjectFile(writeProjectFile({ project, takes, assets: [], sounds: [] }))
    expect(again.project).toEqual(project)
    expect(again.takes).toEqual(takes)
  })

  test('has its notes and what had been set', () => {
    expect(project.name).toBe(`Lamps, form ${form}`)
    for (const [index, track] of project.tracks.entries())
      expect(soundingNotes(track)).toHaveLength(soundingNotes(demo.tracks[index]!).length)
    expect(project).toMatchObject({
      countIn: 2,
      keys: [{ tick: 0, fifths: -2, mode: 'minor' }],
      tempos: [{ tempoBpm: 92 }, { tick: 322_560, tempoBpm: 80 }],
      meters: [{ numerator: 4 }, { tick: 483_840, numerator: 3 }],
      scoreSettings: { smallestValue: 8, tuplets: false, splitKey: 55, minLengthMs: 35 },
    })
    expect(project.click.isOn).toBe(false)
    expect(flute).toMatchObject({ isMuted: true, volume: 0.5, pan: -0.25 })
    expect(piano).toMatchObject({ staffSplitKey: 57 })
    if (form <= 2)
      expect(harp!.effects).toMatchObject([
        {
          kind: 'arpeggio',
          isOn: true,
          seed: 1,
          settings: { rate: '1/8', order: 'up', octaves: 1, gate: 80 },
        },
      ])
    if (form >= 2) expect(project.cables).toEqual(['Mole'])
    if (form >= 2) expect(piano).toMatchObject({ offsetMs: 12, routes: [{ lowKey: 20 }] })
    if (form >= 5) expect(project.sections.map(({ name }) => name)).toEqual(['Lamps lit', 'Ebb'])
    if (form >= 6) expect(project).toMatchObject({ composer: 'Ilse Quay', rights: 'free to play' })
    if (form >= 8) expect(project).toMatchObject({ arranger: 'Tam Pier', page: { paper: 'letter' } })
    if (form >= 9) expect(piano!.shortName).toBe('Pno.')
  })

  test('is read as that form was read: what is new since then is off, or as it had been', () => {
    const { scoreSettings, page, recording, click } = project
    expect(scoreSettings).toMatchObject({
      followsHands: false,
      isConcertPitch: false,
      readsTouch: true,
      readsSwing: true,
      readsOrnaments: true,
      readsDynamics: true,
      readsPedal: true,
      holdsThroughPedal: false,
      foldsRepeats: false,
      writesWords: true,
      readsClefs: form < 6,
      readsSlurs: form < 7,
      beamsOverRests: form >= 8,
    })
    expect(page).toEqual({
      paper: form >= 8 ? 'letter' : 'A4',
      isAcross: false,
      scoreStaffMm: 5.5,
      partStaffMm: 7,
      marginMm: form >= 8 ? 18 : 15,
      barsToLine: null,
      linesToPage: null,
      gathersRests: true,
      turnsAtRests: true,
      writesCues: form >= 10,
      writesDrumKey: true,
      hidesEmptyStaves: form >= 9,
    })
    expect([recording.speedPercent, click.channel]).toEqual([form >= 10 ? 80 : 100, 10])
  })

  test('gives a page with its bars, its key, its meter and its parts', () => {
    const xml = writeMusicXml(scoreOf(project), headingsOf(project))
    const parts = [...xml.matchAll(/<part-name>([^<]*)/g)].map(([, name]) => name)
    expect(parts).toEqual(['Orla’s flute', 'Benno’s piano', 'Sefa’s harp'])
    for (const part of xml.split('<part id=').slice(1)) {
      expect(part.match(/<measure /g)!.length).toBeGreaterThanOrEqual(17)
      expect(part).toContain('<fifths>-2</fifths>')
      expect(part).toMatch(/<beats>3<\/beats>/)
    }
  })
})
