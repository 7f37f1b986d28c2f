import type { MidiFile, MidiFileEvent } from '../midi/standardMidiFile/model'
import { readMidiFile } from '../midi/standardMidiFile/read'
import { writeMidiFile } from '../midi/standardMidiFile/write'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { midiToProject } from './midiToProject'
import { writeMusicXml } from './musicXml'
import { projectToMidi } from './projectToMidi'

const line = (channel: number, shift: number): MidiFileEvent[] =>
  [0, 1, 2, 3].flatMap((beat) => [
    { tick: beat * 480 + shift, type: 'noteOn' as const, channel, key: 60 + beat, velocity: 80 },
    { tick: beat * 480 + shift + 400, type: 'noteOff' as const, channel, key: 60 + beat, velocity: 64 },
  ])
const words = (type: 'lyric' | 'text', texts: readonly string[]): MidiFileEvent[] =>
  texts.map((text, beat) => ({ tick: beat * 480, type, text }))
const fileOf = (...tracks: MidiFileEvent[][]): MidiFile => ({
  format: 1,
  divisionTicksPerQuarter: 480,
  tracks: tracks.map((events) => ({ events: [...events].sort((a, b) => a.tick - b.tick), endTick: 1920 })),
  warnings: [],
})
const projectFrom = (...tracks: MidiFileEvent[][]): Project =>
  midiToProject(fileOf(...tracks), { id: 'x', name: 'Song', nowMs: 0 }).project
const sungOn = (project: Project) =>
  scoreOf(project).parts.map((part) =>
    part.measures
      .flat()
      .flatMap(({ elements }) =>
        elements.flatMap((element) =>
          element.kind === 'chord' && element.lyric
            ? [`${element.lyric.text} ${element.lyric.syllabic}`]
            : [],
        ),
      ),
  )

test('syllables go under the notes they are sung on, in words told by hyphens or by spaces', () => {
  const expected = ['har begin', 'bour end', 'at single', 'night single']
  const hyphens = projectFrom([...words('lyric', ['har-', 'bour', 'at', 'night']), ...line(1, 0)])
  expect(sungOn(hyphens)).toEqual([expected])
  const spaces = projectFrom([...words('lyric', ['har', 'bour ', 'at ', 'night']), ...line(1, 10)])
  expect(sungOn(spaces)).toEqual([expected])
})

test('syllables of a track without notes go to the part that sings them', () => {
  const texts: MidiFileEvent[] = [
    { tick: 0, type: 'text', text: '@KMIDI KARAOKE FILE' },
    ...words('text', ['\\har', 'bour', ' at', '/night']),
  ]
  const project = projectFrom(texts, line(2, 170), line(1, 0))
  expect(sungOn(project)).toEqual([[], ['har begin', 'bour end', 'at single', 'night single']])
  expect(project.words.every(({ trackId }) => trackId === project.tracks[1]!.id)).toBe(true)
})

test('the end of a word that is sung on has a line, one that is followed by a rest or another syllable has none', () => {
  const heldOf = (...texts: readonly string[]) =>
    scoreOf(projectFrom([...words('lyric', texts), ...line(1, 0)]))
      .parts[0]!.measures.flat()
      .flatMap(({ elements }) =>
        elements.flatMap((element) =>
          element.kind === 'chord' && element.lyric ? [`${element.lyric.text} ${element.lyric.isHeld}`] : [],
        ),
      )
  expect(heldOf('la')).toEqual(['la true'])
  expect(heldOf('la', 'lo', 'li', 'lu')).toEqual(['la false', 'lo false', 'li false', 'lu false'])
  expect(heldOf('har-', 'bour')).toEqual(['har false', 'bour true'])
  const project = projectFrom([...words('lyric', ['la']), ...line(1, 0)])
  expect(writeMusicXml(scoreOf(project), headingsOf(project))).toContain('<text>la</text><extend/></lyric>')
})

test('a syllable at no note is kept, and is on no note', () => {
  const project = projectFrom([
    ...words('lyric', ['la']),
    { tick: 1900, type: 'lyric', text: 'oh' },
    ...line(1, 0),
  ])
  expect(project.words.map(({ text }) => text)).toEqual(['la', 'oh'])
  expect(sungOn(project)).toEqual([['la single']])
  expect(scoreOf(project).parts[0]!.unplacedSyllables).toBe(1)
})

test('all words of a file are in the piece, in MusicXML, and in the file made of it again', () => {
  const project = projectFrom(
    [
      { tick: 0, type: 'copyright', text: 'the Lantern Press' },
      { tick: 0, type: 'text', text: 'Composer: Signe Vold' },
      { tick: 960, type: 'text', text: 'with the tide' },
      { tick: 960, type: 'marker', text: 'B' },
      { tick: 480, type: 'cue', text: 'lights' },
    ],
    [{ tick: 0, type: 'instrumentName', text: 'Alto' }, ...words('lyric', ['la', 'la']), ...line(1, 0)],
  )
  expect(project).toMatchObject({
    composer: 'Signe Vold',
    rights: 'the Lantern Press',
    sections: [{ name: 'B' }],
  })
  expect(project.tracks[0]!.name).toBe('Alto')
  const xml = writeMusicXml(scoreOf(project), headingsOf(project))
  for (const text of [
    '<creator type="composer">Signe Vold</creator>',
    '<rights>the Lantern Press</rights>',
    'with the tide</words>',
    '<rehearsal>B</rehearsal>',
    '<lyric number="1"><syllabic>single</syllabic><text>la</text></lyric>',
  ])
    expect(xml).toContain(text)
  const again = midiToProject(readMidiFile(writeMidiFile(projectToMidi(project, project.tracks, 960))), {
    id: 'x',
    name: 'Song',
    nowMs: 0,
  }).project
  for (const field of ['words', 'composer', 'rights', 'sections'] as const)
    expect(again[field]).toEqual(project[field])
})

test('words can be left off the page', () => {
  const project = projectFrom([
    ...words('lyric', ['la']),
    { tick: 0, type: 'text', text: 'softly' },
    ...line(1, 0),
  ])
  const without = { ...project, scoreSettings: { ...project.scoreSettings, writesWords: false } }
  expect(sungOn(without)).toEqual([[]])
  expect(writeMusicXml(scoreOf(without), headingsOf(without))).not.toContain('softly')
})

test('more words than can be kept are told', () => {
  const many: MidiFileEvent[] = Array.from({ length: 20_003 }, (_, tick) => ({
    tick,
    type: 'text',
    text: `t${tick}`,
  }))
  const { project, warnings } = midiToProject(fileOf([...many, ...line(1, 0)]), {
    id: 'x',
    name: 'Song',
    nowMs: 0,
  })
  expect(project.words).toHaveLength(20_000)
  expect(warnings).toContain('Of 20,003 syllables and texts the first 20,000 were taken over.')
})

test('what is too long for the page is cut there, and whole in the file', () => {
  const [syllable, text] = ['la'.repeat(60), 'with the tide '.repeat(12).trim()]
  const project = projectFrom([
    ...words('lyric', [syllable]),
    { tick: 480, type: 'text', text },
    ...line(1, 0),
  ])
  const [score, headings] = [scoreOf(project), headingsOf(project)]
  const file = writeMusicXml(score, headings)
  expect(file).toContain(`<text>${syllable}</text>`)
  expect(file).toContain(text)
  const page = writeMusicXml(score, headings, { measures: { from: 0, to: 1 }, withNoteIds: true })
  expect(page).toContain('<text>lalalalalalalalalalalal…</text>')
  expect(page).toMatch(/<words[^>]*>with the tide [^<]{40,50}…<\/words>/)
})
