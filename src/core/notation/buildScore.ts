import { type Measure, MeterMap } from '../time/meterMap'
import { type DraftPart, draftPart } from './draftPart'
import { engravePart } from './engravePart'
import { findKey } from './keyFinding'
import type { Score, ScorePart } from './score'
import type { KeySignature } from './scoreSettings'
import type { PartSource, ScoreSource } from './scoreSource'
import { tempoMarksOf } from './tempoMarks'

/**
 * Writes the score of a piece: performed notes become written ones, part by part.
 * The ledger of each part says what became of every note. Parts that have not changed since the last call (same
 * notes, same settings) are taken over, so that an edit costs one part.
 */
export class ScoreBuilder {
  private drafts = new Map<string, { inputs: readonly unknown[]; draft: DraftPart }>()
  private parts = new Map<string, { inputs: readonly unknown[]; part: ScorePart }>()

  build(source: ScoreSource): Score {
    const drafts = source.parts.map((part) => this.draft(part, source))
    const key = source.key ?? findCommonKey(drafts)
    const endTicks = drafts.reduce((end, draft) => Math.max(end, draft.endTicks), 1)
    const measures = new MeterMap(source.meters).measuresUntil(endTicks)
    const parts = drafts.map((draft) => this.part(draft, measures, key))
    const alive = new Set(source.parts.map(({ id }) => id))
    for (const id of this.drafts.keys()) if (!alive.has(id)) this.drafts.delete(id)
    for (const id of this.parts.keys()) if (!alive.has(id)) this.parts.delete(id)
    const texts = source.settings.writesWords ? source.texts : []
    return { key, tempos: tempoMarksOf(source.tempos), sections: source.sections, texts, measures, parts }
  }

  private draft(part: PartSource, source: ScoreSource): DraftPart {
    const { settings, tempos, meters } = source
    const inputs = [
      part.notes,
      JSON.stringify([
        settings,
        tempos,
        meters,
        part.instrument,
        part.staffSplitKey,
        part.transposition,
        part.sung,
        part.texts,
      ]),
    ]
    const known = this.drafts.get(part.id)
    if (known && sameInputs(known.inputs, inputs)) return known.draft
    const draft = draftPart(part, source)
    this.drafts.set(part.id, { inputs, draft })
    return draft
  }

  private part(draft: DraftPart, measures: readonly Measure[], key: KeySignature): ScorePart {
    const inputs = [draft, measures.length, key.fifths, key.mode]
    const known = this.parts.get(draft.id)
    if (known && sameInputs(known.inputs, inputs)) return known.part
    const part = engravePart(draft, measures, key)
    this.parts.set(draft.id, { inputs, part })
    return part
  }
}

/** Writes a score once, without keeping anything. */
export function buildScore(source: ScoreSource): Score {
  return new ScoreBuilder().build(source)
}

function sameInputs(a: readonly unknown[], b: readonly unknown[]): boolean {
  return a.length === b.length && a.every((value, index) => value === b[index])
}

function findCommonKey(drafts: readonly DraftPart[]): KeySignature {
  const sums = new Array<number>(12).fill(0)
  for (const draft of drafts) for (let i = 0; i < 12; i++) sums[i]! += draft.pitchClassTicks[i]!
  return findKey(sums).key
}
