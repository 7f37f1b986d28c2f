import { soundingNotes } from '../../project/create'
import { midiPartsOf } from '../../project/midiParts'
import { headingsOf, scoreOf } from '../../project/onPage'
import type { Project } from '../../project/schema'
import { proveMusicXml } from '../../proof/proveMusicXml'
import { TICKS_PER_QUARTER } from '../../time/units'
import { writeMusicXml } from '../musicXml'
import { scoreToProject } from '../scoreToProject'
import { verovioReader } from '../verovioReader.testing'
import { MusicXmlError, readMusicXml } from './readMusicXml'

const attributes =
  '<attributes><divisions>2</divisions><key><fifths>0</fifths></key><time><beats>4</beats><beat-type>4</beat-type></time><clef><sign>G</sign><line>2</line></clef></attributes>'
const whole = (step: string) =>
  `<note><pitch><step>${step}</step><octave>4</octave></pitch><duration>8</duration><voice>1</voice><type>whole</type></note>`
const left = (content: string) => `<barline location="left">${content}</barline>`
const right = (content: string) => `<barline location="right">${content}</barline>`
/** A flute that plays bars, each given with what it holds. */
const flute = (...bars: readonly string[]) =>
  `<?xml version="1.0"?><score-partwise version="4.0"><part-list><score-part id="P1"><part-name>Flute</part-name></score-part></part-list><part id="P1">${bars
    .map((bar, index) => `<measure number="${index + 1}">${index === 0 ? attributes : ''}${bar}</measure>`)
    .join('')}</part></score-partwise>`

const opened = (xml: string) => {
  const { music, warnings } = readMusicXml(xml)
  const { project, warnings: further } = scoreToProject(music, { id: 'p', name: 'p', nowMs: 0 })
  return { project, warnings: [...warnings, ...further].filter((text) => !text.includes('no tempo')) }
}
const written = (project: Project) => writeMusicXml(scoreOf(project), headingsOf(project))
const keys = (project: Project) => soundingNotes(project.tracks[0]!).map(({ key }) => key)

const forward = '<repeat direction="forward"/>'
const backward = (times = '') => `<repeat direction="backward"${times}/>`
const ending = (number: string, type: string) => `<ending number="${number}" type="${type}"/>`

// Played-out orders worked out by hand from MusicXML 4.0; the written file is then played by verovio, which follows its signs.
describe('repeats are played out, and written as they were', () => {
  const cases: [string, string, number[], number][] = [
    [
      'a passage twice',
      flute(whole('C'), left(forward) + whole('D'), whole('E') + right(backward()), whole('F')),
      [60, 62, 64, 62, 64, 65],
      4,
    ],
    [
      'two endings',
      flute(
        whole('C'),
        whole('D'),
        left(ending('1', 'start')) + whole('E') + right(ending('1', 'stop') + backward()),
        left(ending('2', 'start')) + whole('F') + right(ending('2', 'discontinue')),
        whole('G'),
      ),
      [60, 62, 64, 60, 62, 65, 67],
      5,
    ],
    [
      'from the beginning',
      flute(whole('C'), whole('D') + right(backward()), whole('E')),
      [60, 62, 60, 62, 64],
      3,
    ],
  ]
  test.each(cases)('%s', async (_, xml, expected, bars) => {
    const { project, warnings } = opened(xml)
    expect(warnings).toEqual([])
    expect(keys(project)).toEqual(expected)
    const score = scoreOf(project)
    expect(score.measures).toHaveLength(bars)
    expect(score.misfits).toEqual([])
    const again = written(project)
    expect(keys(opened(again).project)).toEqual(expected)
    const proof = await proveMusicXml(again, score, headingsOf(project), await verovioReader())
    expect(proof).toMatchObject({ isProved: true, foundNotes: expected.length })
  })

  test('three times', () => {
    const { project } = opened(
      flute(whole('C'), left(forward) + whole('D') + right(backward(' times="3"')), whole('F')),
    )
    expect(keys(project)).toEqual([60, 62, 62, 62, 65])
    expect(scoreOf(project).repeats).toEqual([{ from: 1, to: 2, times: 3 }])
    expect(keys(opened(written(project)).project)).toEqual([60, 62, 62, 62, 65])
  })

  test('da capo al fine is written out, and says so', () => {
    const { project, warnings } = opened(
      flute(
        whole('C'),
        `${whole('D')}<direction><direction-type><words>Fine</words></direction-type><sound fine="yes"/></direction>`,
        `${whole('E')}<direction><direction-type><words>D.C. al Fine</words></direction-type></direction>`,
      ),
    )
    expect(keys(project)).toEqual([60, 62, 64, 60, 62])
    expect(scoreOf(project).measures).toHaveLength(5)
    expect(warnings.join()).toContain('da capo')
  })

  test('what is played again and is changed in one place is written out from then on', () => {
    const { project } = opened(flute(whole('C'), whole('D') + right(backward())))
    const track = project.tracks[0]!
    const clip = track.clips[0]!
    const notes = clip.notes.map((note, index) => (index === 3 ? { ...note, key: 65 } : note))
    const edited = { ...project, tracks: [{ ...track, clips: [{ ...clip, notes }] }] }
    const score = scoreOf(edited)
    expect(score.measures).toHaveLength(4)
    expect(score.repeats).toEqual([])
    expect(score.misfits.map(({ why }) => why)).toEqual(['bar 4 is not the same as bar 2, which it repeats'])
  })
})

describe('what a file says sounds', () => {
  const note = (step: string, content = '', dynamics = '') =>
    `<note${dynamics}><pitch><step>${step}</step><octave>5</octave></pitch><duration>2</duration><voice>1</voice><type>quarter</type>${content}</note>`
  const level = (mark: string) =>
    `<direction><direction-type><dynamics><${mark}/></dynamics></direction-type></direction>`
  const staccato = '<notations><articulations><staccato/></articulations></notations>'

  test('levels as force, staccato short, the rest by its gate', () => {
    const { project } = opened(
      flute(level('pp') + note('C') + note('D', staccato) + level('ff') + note('E') + note('F')),
    )
    const [first, short, loud] = soundingNotes(project.tracks[0]!)
    expect(first!.velocity).toBeLessThan(45)
    expect(loud!.velocity).toBeGreaterThan(100)
    expect(short!.durationTicks * 2).toBe(TICKS_PER_QUARTER)
    expect(first!.durationTicks).toBe(0.9 * TICKS_PER_QUARTER)
  })

  test('force that a note says itself holds', () => {
    const { project } = opened(
      flute(level('pp') + note('C', '', ' dynamics="100"') + note('D') + note('E') + note('F')),
    )
    expect(soundingNotes(project.tracks[0]!)[0]!.velocity).toBe(90)
  })

  test('a trill is many notes, and one on the page', () => {
    const trill = '<notations><ornaments><trill-mark/></ornaments></notations>'
    const { project } = opened(flute(note('C', trill) + note('D') + note('E') + note('F')))
    expect(keys(project).filter((key) => key === 74).length).toBeGreaterThan(2)
    const score = scoreOf(project)
    expect(score.parts[0]!.ledger.written).toBe(4)
    expect(written(project)).toContain('<trill-mark/>')
  })

  test('grace notes sound before what they lead to', () => {
    const grace =
      '<note><grace/><pitch><step>B</step><octave>4</octave></pitch><voice>1</voice><type>eighth</type></note>'
    const { project } = opened(flute(note('C') + grace + note('D') + note('E') + note('F')))
    expect(keys(project)).toEqual([72, 71, 74, 76, 77])
    expect(written(project)).toContain('<grace slash="yes"/>')
  })

  test('a part that transposes sounds where it does, and is written as it was', () => {
    const clarinet = flute(
      `<attributes><transpose><diatonic>-1</diatonic><chromatic>-2</chromatic></transpose></attributes>${whole('D')}`,
    )
    const { project } = opened(clarinet)
    expect(keys(project)).toEqual([60])
    expect(scoreOf(project).parts[0]!.measures[0]![0]!.elements[0]).toMatchObject({
      notes: [{ pitch: { step: 'D', alter: 0, octave: 4 } }],
    })
  })

  test('in a transposition that has no name here it sounds where it does, is written as it sounds, and says so', () => {
    const horn = flute(
      `<attributes><key><fifths>1</fifths></key><transpose><diatonic>-4</diatonic><chromatic>-6</chromatic></transpose></attributes>${whole('F').replace('<octave>', '<alter>1</alter><octave>')}`,
    )
    const { project, warnings } = opened(horn)
    expect(keys(project)).toEqual([60])
    expect(warnings).toEqual([
      expect.stringContaining('Flute is written in a transposition that is not known'),
    ])
    expect(scoreOf(project).parts[0]!.measures[0]![0]!.elements[0]).toMatchObject({
      // A fifth of its letters lower than F, on the key that sounds.
      notes: [{ key: 60, pitch: { step: 'B', alter: 1, octave: 3 } }],
    })
    const again = opened(written(project))
    expect(keys(again.project)).toEqual([60])
  })

  test('a part of several voices is one part of a MIDI file', () => {
    const two = flute(
      `${whole('C')}<backup><duration>8</duration></backup>${whole('E').replace('<voice>1', '<voice>2')}`,
    )
    const { project } = opened(two)
    expect(midiPartsOf(project.tracks[0]!).map(({ name, notes }) => [name, notes.length])).toEqual([
      ['Flute', 2],
    ])
  })

  test('a pickup, and a bar that a repeat divides, are as long as what they hold', () => {
    const quarter = note('C')
    const { project } = opened(
      flute(quarter, whole('D'), note('E') + note('F') + right(backward()), note('G') + note('A')),
    )
    expect(
      project.meters.map(({ numerator, denominator, writtenIn }) => [numerator, denominator, writtenIn]),
    ).toEqual([
      [1, 4, { numerator: 4, denominator: 4 }],
      [4, 4, undefined],
      [2, 4, { numerator: 4, denominator: 4 }],
      [1, 4, { numerator: 4, denominator: 4 }],
      [4, 4, undefined],
      [2, 4, { numerator: 4, denominator: 4 }],
    ])
    const xml = written(project)
    expect(xml.match(/<time>/g)).toHaveLength(1)
    expect(xml.match(/implicit="yes"/g)).toHaveLength(3)
  })

  test('a bar that ends in silence nobody wrote as a rest is as long as its voices', () => {
    const half =
      '<note><pitch><step>A</step><octave>3</octave></pitch><duration>4</duration><voice>2</voice><type>half</type></note>'
    const bar = `<note><rest measure="yes"/><duration>8</duration><voice>1</voice></note><backup><duration>8</duration></backup>${half}<forward><duration>4</duration></forward>`
    const { project } = opened(flute(bar, whole('D')))
    expect(soundingNotes(project.tracks[0]!).map(({ onsetTicks }) => onsetTicks / TICKS_PER_QUARTER)).toEqual(
      [0, 4],
    )
  })

  test('by bars instead of by parts', () => {
    const timewise = `<score-timewise version="3.0"><part-list><score-part id="P1"><part-name>Flute</part-name></score-part><score-part id="P2"><part-name>Oboe</part-name></score-part></part-list><measure number="1"><part id="P1">${attributes}${whole('C')}</part><part id="P2">${attributes}${whole('E')}</part></measure><measure number="2"><part id="P1">${whole('D')}</part><part id="P2">${whole('F')}</part></measure></score-timewise>`
    const { project } = opened(timewise)
    expect(project.tracks.map((track) => [track.name, soundingNotes(track).map(({ key }) => key)])).toEqual([
      ['Flute', [60, 62]],
      ['Oboe', [64, 65]],
    ])
    expect(project.tracks.map(({ instrument }) => instrument)).toEqual([
      { kind: 'program', program: 73 },
      { kind: 'program', program: 68 },
    ])
  })

  test('syllables, words, marks and chord symbols', () => {
    const sung = (step: string, syllabic: string, text: string) =>
      note(step, `<lyric><syllabic>${syllabic}</syllabic><text>${text}</text></lyric>`)
    const { project } = opened(
      flute(
        '<direction><direction-type><rehearsal>A</rehearsal></direction-type></direction>' +
          '<direction><direction-type><words>dolce</words></direction-type></direction>' +
          '<harmony><root><root-step>F</root-step><root-alter>1</root-alter></root><kind>minor-seventh</kind></harmony>' +
          sung('C', 'begin', 'lan') +
          sung('D', 'end', 'tern') +
          sung('E', 'single', 'light') +
          note('F'),
      ),
    )
    expect(project.sections).toEqual([{ tick: 0, name: 'A' }])
    expect(project.words.map(({ kind, text }) => [kind, text])).toEqual([
      ['chord', 'F#m7'],
      ['text', 'dolce'],
      ['lyric', 'lan-'],
      ['lyric', 'tern '],
      ['lyric', 'light '],
    ])
    const xml = written(project)
    for (const wanted of [
      '<syllabic>begin</syllabic><text>lan</text>',
      '<kind text="m7">minor-seventh</kind>',
      'dolce',
    ])
      expect(xml).toContain(wanted)
  })
})

describe('what cannot be read says what and where', () => {
  const refused = (xml: string) => {
    try {
      readMusicXml(xml)
    } catch (error) {
      if (error instanceof MusicXmlError) return error.message
      throw error
    }
    return null
  }
  test('cut off, emptied, of another kind', () => {
    const whole3 = flute(whole('C'), whole('D'), whole('E'))
    const cut = opened(whole3.slice(0, -60))
    expect(cut.warnings).toEqual([
      expect.stringMatching(/damaged: Line 1.*What stands before that could be read: 2 bars of one part/),
    ])
    expect(keys(cut.project)).toEqual([60, 62])
    expect(refused('')).toBe('The file is empty')
    expect(refused(whole3.slice(0, 300))).toMatch(/^Line 1/)
    expect(refused('<html><body/></html>')).toMatch(/begins with <html>|nothing of a score/)
    expect(refused('<score-partwise/>')).toMatch(/no parts|nothing/)
  })
  test('entities are never expanded, nor anything fetched', () => {
    const bomb = `<?xml version="1.0"?><!DOCTYPE lolz [<!ENTITY lol "lol"><!ENTITY lol2 "&lol;&lol;">]>${flute(whole('C')).slice(21).replace('Flute', '&lol2;')}`
    expect(refused(bomb)).toMatch(/entity of its own/)
    const outside = `<?xml version="1.0"?><!DOCTYPE x [<!ENTITY f SYSTEM "file:///etc/passwd">]>${flute(whole('C')).slice(21).replace('Flute', '&f;')}`
    expect(refused(outside)).toMatch(/entity of its own/)
  })
  test('nested without end', () => {
    expect(refused(`<score-partwise>${'<a>'.repeat(5000)}`)).toMatch(/nested more than 100 deep/)
  })
  test('more bars than anybody writes', () => {
    const bars = Array.from({ length: 20_001 }, () => '<forward><duration>8</duration></forward>')
    expect(refused(flute(...bars))).toMatch(/more than 20,000 bars/)
  })
  test('wrong durations and unknown elements are told, and the rest is read', () => {
    const bad = flute(
      `${whole('C').replace('<duration>8</duration>', '<duration>soon</duration>')}<cheese/>${whole('D')}`,
    )
    const { project, warnings } = opened(bad)
    expect(keys(project)).toEqual([62])
    expect(warnings.join(' ')).toMatch(/durations that are no numbers: line 1 \(bar 1 of Flute\)/)
  })
  test('parts of unequal length, and a voice that overlaps itself', () => {
    const overlapping = flute(
      `${whole('C')}<backup><duration>4</duration></backup><note><pitch><step>E</step><octave>4</octave></pitch><duration>4</duration><voice>1</voice><type>half</type></note>`,
    )
    const { project } = opened(overlapping)
    expect(keys(project)).toEqual([60, 64])
    expect(scoreOf(project).parts[0]!.measures[0]).toHaveLength(2)
  })
})
