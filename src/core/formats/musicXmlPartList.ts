import { programNames } from '../midi/generalMidi'
import { soundIdOf } from '../midi/soundIds'
import { groupsOf } from '../notation/families'
import type { PartHeading, ScoreHeadings } from '../notation/headings'
import { isUnpitched, type Score, type ScorePart } from '../notation/score'
import { kitKeyName } from '../project/kit'
import { drumsOf } from './drums'
import { rounded } from './musicXmlDirections'
import { xmlText } from './xmlText'

/**
 * The parts of a score with their instruments, neighbours of one family held together.
 *
 * @param shown indices of the parts that are written
 */
export function partList(score: Score, headings: ScoreHeadings, shown: readonly number[]): string {
  const out: string[] = []
  out.push('<part-list>')
  const groups = groupsOf(shown.map((index) => headings.parts[index]!))
  for (const [place, index] of shown.entries()) {
    const part = score.parts[index]!
    const number = groups.findIndex(({ first }) => first === place) + 1
    if (number > 0)
      out.push(
        `<part-group type="start" number="${number}"><group-symbol>bracket</group-symbol><group-barline>yes</group-barline></part-group>`,
      )
    out.push(scorePart(part, headings.parts[index]!, index))
    const ended = groups.findIndex(({ last }) => last === place) + 1
    if (ended > 0) out.push(`<part-group type="stop" number="${ended}"/>`)
  }
  if (score.parts.length === 0) out.push('<score-part id="P1"><part-name/></score-part>')
  out.push('</part-list>')
  return out.join('\n')
}

function scorePart(part: ScorePart, heading: PartHeading, index: number): string {
  const id = `P${index + 1}`
  const drums = isUnpitched(part)
  const keys = drums ? drumsOf(part) : []
  const program = heading.instrument.kind === 'program' ? heading.instrument.program : 0
  const sound = heading.instrument.kind === 'program' ? soundIdOf(program) : null
  const instruments = drums
    ? keys.map(
        (key) =>
          `<score-instrument id="${id}-I${key}"><instrument-name>${xmlText(kitKeyName(heading, key))}</instrument-name></score-instrument>`,
      )
    : [
        `<score-instrument id="${id}-I1"><instrument-name>${xmlText(programNames[program]!)}</instrument-name>${sound ? `<instrument-sound>${sound}</instrument-sound>` : ''}</score-instrument>`,
      ]
  const levels = `<volume>${rounded(heading.volume * 100)}</volume><pan>${rounded(heading.pan * 90)}</pan>`
  const midi = drums
    ? keys.map(
        (key) =>
          `<midi-instrument id="${id}-I${key}"><midi-channel>${heading.channel}</midi-channel><midi-unpitched>${key + 1}</midi-unpitched>${levels}</midi-instrument>`,
      )
    : [
        `<midi-instrument id="${id}-I1"><midi-channel>${heading.channel}</midi-channel><midi-program>${program + 1}</midi-program>${levels}</midi-instrument>`,
      ]
  return `<score-part id="${id}"><part-name>${xmlText(heading.name)}</part-name>${heading.shortName ? `<part-abbreviation>${xmlText(heading.shortName)}</part-abbreviation>` : ''}${instruments.join('')}${midi.join('')}</score-part>`
}
