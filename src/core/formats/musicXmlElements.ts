import { type Lyric, mostDrawnLetters } from '../notation/lyrics'
import { noteElementId, restElementId } from '../notation/noteElements'
import { percussionPlace } from '../notation/percussion'
import {
  type ChordNote,
  isUnpitched,
  type ScoreElement,
  type ScorePart,
  staffOf,
  type VoiceInMeasure,
} from '../notation/score'
import { flagCount } from '../notation/values'
import { shortened } from '../text/bounded'
import type { Measure } from '../time/meterMap'
import { rounded } from './musicXmlDirections'
import { articulationsXml, rolledXml, type SlurEnds, slurPlace } from './musicXmlNotations'
import type { MusicXmlOptions } from './musicXmlOptions'
import { xmlText } from './xmlText'

/** Whether what a chord is tied to lies outside of an excerpt, before it and behind it: a tie with one end only is none. */
function outsideExcerpt(
  { startTicks, durationTicks }: ScoreElement,
  { index, lengthTicks }: Measure,
  { measures }: MusicXmlOptions,
): { readonly before: boolean; readonly behind: boolean } {
  return {
    before: index === measures?.from && startTicks === 0,
    behind: index + 1 === measures?.to && startTicks + durationTicks >= lengthTicks,
  }
}

/** A chord or a rest of one voice, with all that stands at it. */
export function writeElement(
  out: string[],
  part: ScorePart,
  partIndex: number,
  voice: VoiceInMeasure,
  element: ScoreElement,
  options: MusicXmlOptions,
  measure: Measure,
  stem: 'up' | 'down' | undefined,
  slurs: SlurEnds,
): void {
  const staff = part.clefs.length > 1 ? `<staff>${staffOf(element, voice)}</staff>` : ''
  const modification = element.tuplet
    ? `<time-modification><actual-notes>${element.tuplet.actual}</actual-notes><normal-notes>${element.tuplet.normal}</normal-notes></time-modification>`
    : ''
  const size = voice.isCue ? ' size="cue"' : ''
  const cue = voice.isCue ? '<cue/>' : ''
  const type = `<type${size}>${element.value.type}</type>${'<dot/>'.repeat(element.value.dots)}`
  const tuplet = tupletXml(element)
  if (element.kind === 'rest') {
    // What a second voice does not play is nothing to be read: no rest, but a step forward. Tuplets need all their parts.
    if (element.isHidden && !tuplet && !element.tuplet) {
      out.push(
        `<forward><duration>${element.durationTicks}</duration><voice>${voice.voice}</voice>${staff}</forward>`,
      )
      return
    }
    const hidden = element.isHidden ? ' print-object="no"' : ''
    const rest = element.isWholeMeasure
      ? `<rest measure="yes"/><duration>${element.durationTicks}</duration><voice>${voice.voice}</voice>`
      : `<rest/><duration>${element.durationTicks}</duration><voice>${voice.voice}</voice>${type}${modification}`
    const id = options.withNoteIds
      ? ` id="${restElementId(partIndex, voice.voice, measure.startTicks + element.startTicks)}"`
      : ''
    out.push(
      `<note${id}${hidden}>${cue}${rest}${staff}${tuplet ? `<notations>${tuplet}</notations>` : ''}</note>`,
    )
    return
  }
  for (const [index, note] of element.graces.entries())
    out.push(
      graceXml(
        part,
        partIndex,
        note,
        index,
        element.graces.length,
        { ...voice, staff: staffOf(element, voice) },
        options,
      ),
    )
  const slurXml = slurs.get(slurPlace(voice.voice, measure.startTicks + element.startTicks)) ?? ''
  const open = outsideExcerpt(element, measure, options)
  for (const [index, note] of element.notes.entries()) {
    const isTiedTo = note.tiesFromPrevious && !open.before
    const isTiedOn = note.tiesToNext && !open.behind
    const id = options.withNoteIds ? ` id="${noteElementId(note, measure.index, element.startTicks)}"` : ''
    // What is not played has no tie, only its curve.
    const ties = voice.isCue
      ? ''
      : `${isTiedTo ? '<tie type="stop"/>' : ''}${isTiedOn ? '<tie type="start"/>' : ''}`
    const tied = `${isTiedTo ? '<tied type="stop"/>' : ''}${isTiedOn ? '<tied type="start"/>' : ''}`
    const signs =
      index === 0
        ? `${tuplet}${slurXml}${articulationsXml(element.articulations, fingeringsOf(element.notes))}`
        : ''
    const rolled = rolledXml(element.articulations)
    const notations = tied || signs || rolled ? `<notations>${tied}${signs}${rolled}</notations>` : ''
    // Percent of 90, which the standard takes for forte.
    const force = options.withNoteIds ? '' : ` dynamics="${rounded((note.velocity / 90) * 100)}"`
    const beams =
      index === 0
        ? element.beams.map((beam, level) => `<beam number="${level + 1}">${beam}</beam>`).join('')
        : ''
    const accidental = note.accidental ? `<accidental>${note.accidental}</accidental>` : ''
    out.push(
      `<note${id}${force}>${cue}${index > 0 ? '<chord/>' : ''}${pitchXml(part, note)}<duration>${element.durationTicks}</duration>${ties}${instrumentXml(part, partIndex, note)}<voice>${voice.voice}</voice>${type}${accidental}${modification}${stem ? `<stem>${stem}</stem>` : ''}${noteheadXml(part, note, options)}${staff}${beams}${notations}${index === 0 ? lyricXml(element.lyric, options) : ''}</note>`,
    )
  }
}

/** Fingers of a chord are given with its first note: each drawing sets them in order. */
function fingeringsOf(notes: readonly ChordNote[]): string[] {
  return notes.flatMap(({ fingering }) => fingering ?? [])
}

/** A grace note has no duration. One alone is struck through, several are beamed. */
function graceXml(
  part: ScorePart,
  partIndex: number,
  note: ChordNote,
  index: number,
  count: number,
  { voice, staff }: VoiceInMeasure,
  options: MusicXmlOptions,
): string {
  const id = options.withNoteIds ? ` id="${noteElementId(note, 0, 0)}"` : ''
  const beam = index === 0 ? 'begin' : index === count - 1 ? 'end' : 'continue'
  const beams = count > 1 ? `<beam number="1">${beam}</beam><beam number="2">${beam}</beam>` : ''
  const accidental = note.accidental ? `<accidental>${note.accidental}</accidental>` : ''
  const onStaff = part.clefs.length > 1 ? `<staff>${staff}</staff>` : ''
  return `<note${id}><grace${count > 1 ? '' : ' slash="yes"'}/>${pitchXml(part, note)}${instrumentXml(part, partIndex, note)}<voice>${voice}</voice><type>${count > 1 ? '16th' : 'eighth'}</type>${accidental}<stem>up</stem>${noteheadXml(part, note, options)}${onStaff}${beams}</note>`
}

function lyricXml(lyric: Lyric | null, { withNoteIds }: MusicXmlOptions): string {
  if (!lyric) return ''
  const text = withNoteIds ? shortened(lyric.text, mostDrawnLetters) : lyric.text
  return `<lyric number="1"><syllabic>${lyric.syllabic}</syllabic><text>${xmlText(text)}</text>${lyric.isHeld ? '<extend/>' : ''}</lyric>`
}

function pitchXml(part: ScorePart, note: ChordNote): string {
  if (isUnpitched(part)) {
    const place = percussionPlace(note.key)
    return `<unpitched><display-step>${place.step}</display-step><display-octave>${place.octave}</display-octave></unpitched>`
  }
  const alter = note.pitch.alter ? `<alter>${note.pitch.alter}</alter>` : ''
  return `<pitch><step>${note.pitch.step}</step>${alter}<octave>${note.pitch.octave}</octave></pitch>`
}

function instrumentXml(part: ScorePart, partIndex: number, note: ChordNote): string {
  return isUnpitched(part) ? `<instrument id="P${partIndex + 1}-I${note.key}"/>` : ''
}

/** The drawing of a page knows no circled cross; the open sign above tells the open hi-hat there. */
function noteheadXml(part: ScorePart, note: ChordNote, { withNoteIds }: MusicXmlOptions): string {
  if (!isUnpitched(part)) return ''
  const { notehead } = percussionPlace(note.key)
  if (notehead === 'normal') return ''
  return `<notehead>${withNoteIds && notehead === 'circle-x' ? 'x' : notehead}</notehead>`
}

function tupletXml(element: ScoreElement): string {
  if (!element.tuplet) return ''
  const { starts, stops } = element.tuplet
  const bracket = flagCount(element.value.type) > 0 && element.kind === 'chord' ? '' : ' bracket="yes"'
  return `${starts ? `<tuplet type="start"${bracket}/>` : ''}${stops ? '<tuplet type="stop"/>' : ''}`
}
