import { soundingNotes } from '../project/create'
import { openFile } from './openFile'

/** Small files that say more than any piece has: each is refused, or read within its bounds, and nobody waits for what it says. */
const opened = (text: string) =>
  openFile(new TextEncoder().encode(text), { id: 'hostile', name: 'Hostile', nowMs: 0 })
const notesOf = (text: string) => opened(text).project.tracks.flatMap(soundingNotes)

test('ABC of more repeated bars than any piece has is refused', () => {
  const bars = '|: c :| '.repeat(70_000)
  expect(() => opened(`X:1\nL:1/4\nM:1/4\nK:C\n${bars}\n`)).toThrow('more than 20,000 bars')
})

test.each([
  [
    'MusicXML',
    (count: number) => {
      const note = (chord: string) =>
        `<note>${chord}<pitch><step>C</step><octave>4</octave></pitch><duration>4</duration></note>`
      return `<score-partwise><part-list><score-part id="P1"><part-name>P</part-name></score-part></part-list><part id="P1"><measure number="1"><attributes><divisions>1</divisions></attributes>${note('')}${note('<chord/>').repeat(count)}</measure></part></score-partwise>`
    },
  ],
  [
    'MEI',
    (count: number) =>
      `<mei xmlns="http://www.music-encoding.org/ns/mei"><music><body><mdiv><score><scoreDef><staffGrp><staffDef n="1" lines="5"/></staffGrp></scoreDef><section><measure n="1"><staff n="1"><layer n="1"><chord dur="1">${'<note pname="c" oct="4"/>'.repeat(count)}</chord></layer></staff></measure></section></score></mdiv></body></music></mei>`,
  ],
  ['ABC', (count: number) => `X:1\nL:1/1\nM:4/4\nK:C\n[${'c'.repeat(count)}] |\n`],
])(
  'a chord of thousands of notes in %s is one of as many as there are keys, and that is said',
  (_, fileOf) => {
    const file = fileOf(20_000)
    expect(opened(file).warnings.join(' ')).toContain('chords of more than 128 notes')
    expect(notesOf(file).length).toBeLessThanOrEqual(128)
  },
)
