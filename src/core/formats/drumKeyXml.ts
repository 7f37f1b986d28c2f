import type { PartHeading } from '../notation/headings'
import { percussionPlace } from '../notation/percussion'
import type { ScorePart } from '../notation/score'
import { kitKeyName } from '../project/kit'
import { TICKS_PER_QUARTER } from '../time/units'
import { drumsByPlace } from './drums'
import { xmlText } from './xmlText'

/** Places side by side in one line of a key of drums: their names have room then. */
const placesToLine = 6

/**
 * What each place on the staff of a drum part means, from the lowest up, as lines of music to be engraved: a head for each drum that is
 * struck, its name beneath.
 */
export function drumKeyXml(part: ScorePart, heading: PartHeading): string[] {
  const drums = drumsByPlace(part)
  const lines: string[] = []
  for (let from = 0; from < drums.length; from += placesToLine) {
    const notes = drums.slice(from, from + placesToLine).map((key) => {
      const { step, octave, notehead } = percussionPlace(key)
      const head =
        notehead === 'normal' ? '' : `<notehead>${notehead === 'circle-x' ? 'x' : notehead}</notehead>`
      // The open sign tells an open hi-hat from a closed one, as it does in the part.
      const open =
        notehead === 'circle-x' ? '<notations><technical><open-string/></technical></notations>' : ''
      return `<note><unpitched><display-step>${step}</display-step><display-octave>${octave}</display-octave></unpitched><duration>${TICKS_PER_QUARTER}</duration><voice>1</voice><type>quarter</type><stem>none</stem>${head}${open}<lyric number="1"><syllabic>single</syllabic><text>${xmlText(kitKeyName(heading, key))}</text></lyric></note>`
    })
    lines.push(
      [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<score-partwise version="3.0"><part-list><score-part id="P1"><part-name/></score-part></part-list>',
        '<part id="P1"><measure number="1">',
        `<attributes><divisions>${TICKS_PER_QUARTER}</divisions><key><fifths>0</fifths></key><clef><sign>percussion</sign></clef></attributes>`,
        ...notes,
        // Room for the last name.
        `<note print-object="no"><rest/><duration>${TICKS_PER_QUARTER}</duration><voice>1</voice><type>quarter</type></note>`,
        '<barline location="right"><bar-style>light-light</bar-style></barline></measure></part></score-partwise>',
      ].join('\n'),
    )
  }
  return lines
}
