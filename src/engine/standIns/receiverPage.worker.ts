import { expose } from 'comlink'
import { writeMusicXml } from '@/core/formats/musicXml'
import { noHeadings } from '@/core/notation/headings'
import { openTiesOf } from '@/core/notation/openTies'
import { drawnScore } from '@/core/notation/writtenMusic/drawnScore'
import { performedScore } from '@/core/notation/writtenMusic/performedScore'
import type { WrittenMusic } from '@/core/notation/writtenMusic/writtenMusic'
import { engraveLine } from '../engraver/engraveLine'
import { unknownSpacing } from '../engraver/fillLine'
import { inPlace } from '../engraver/inPlace'
import { loadVerovio } from '../engraver/verovio'

const loading = loadVerovio()

const api = {
  /** Some bars of the receiver's music as a drawing. */
  async draw(
    music: WrittenMusic,
    bars: { readonly from: number; readonly to: number },
    widthPx: number,
  ): Promise<string> {
    const toolkit = await loading
    const score = drawnScore(performedScore(music, 1).score)
    const names = {
      ...noHeadings,
      parts: music.parts.map(({ heading }) => ({ ...heading, name: bars.from === 0 ? heading.name : '' })),
    }
    const musicXml = writeMusicXml(score, names, { measures: bars, withNoteIds: true, goesOn: true })
    const { svg } = engraveLine(
      toolkit,
      musicXml,
      widthPx,
      unknownSpacing,
      openTiesOf(score, bars),
      bars.from + 1,
    )
    return inPlace(svg)
  },
  /** All of it as MusicXML. */
  file(music: WrittenMusic): string {
    const score = drawnScore(performedScore(music, 1).score)
    return writeMusicXml(score, { ...music.headings, parts: music.parts.map(({ heading }) => heading) })
  },
}

export type ReceiverPageApi = typeof api
expose(api)
