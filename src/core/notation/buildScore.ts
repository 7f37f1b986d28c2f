import { type Measure, MeterMap } from '../time/meterMap'
import { amendBars, foldsOf } from './amendments/amendBars'
import { isOfNote, type Misfit } from './amendments/amendment'
import { type DraftPart, draftPart, namedNotes } from './draftPart'
import { engravePart } from './engravePart'
import { findKeys } from './keyFinding'
import { type ReadPart, readPart } from './readPart'
import { folded, foldRepeats } from './repeats'
import type { WrittenNote } from './rhythm/rhythm'
import type { Score, ScorePart } from './score'
import type { KeyChange } from './scoreSettings'
import type { PartSource, ScoreSource } from './scoreSource'
import { type Fifths, spellParts, type UnspelledNote } from './spelling'
import { findSwing, type Swing } from './swing'
import { tempoMarksOf } from './tempoMarks'

/**
 * Writes the score of a piece: performed notes become written ones, part by part.
 * The ledger of each part says what became of every note. Parts that have not changed since the last call (same
 * notes, same settings) are taken over, so that an edit costs one part.
 */
export class ScoreBuilder {
  private reads = new Map<string, { inputs: readonly unknown[]; read: ReadPart }>()
  private drafts = new Map<string, { inputs: readonly unknown[]; draft: DraftPart }>()
  private spelled = new Map<string, readonly Fifths[]>()
  private swing = new Kept<Swing | null>()
  private keys = new Kept<readonly KeyChange[]>()
  private found = new Kept<readonly (readonly Fifths[])[]>()
  private parts = new Map<string, { inputs: readonly unknown[]; part: ScorePart }>()

  private swingOf(source: ScoreSource): Swing | null {
    return source.settings.readsSwing
      ? this.swing.get([...source.parts.map(({ notes }) => notes), JSON.stringify(source.meters)], () =>
          findSwing(
            source.parts.map(({ notes }) => notes),
            new MeterMap(source.meters),
          ),
        )
      : null
  }

  build(source: ScoreSource): Score {
    const swing = this.swingOf(source)
    const drafts = source.parts.map((part) => this.draft(part, source, swing))
    const endTicks = drafts.reduce((end, draft) => Math.max(end, draft.endTicks), 1)
    const measures = new MeterMap(source.meters).measuresUntil(endTicks)
    const keys =
      source.keys.length > 0
        ? fromBarLines(source.keys, measures)
        : this.keys.get(
            [...drafts.map(({ written }) => written), JSON.stringify(source.meters), measures.length],
            () => findKeys(pitched(drafts), measures),
          )
    const names = this.names(drafts, keys)
    const parts = drafts.map((draft, index) => this.part(draft, measures, keys, names[index]!))
    const alive = new Set(source.parts.map(({ id }) => id))
    for (const id of this.reads.keys()) if (!alive.has(id)) this.reads.delete(id)
    for (const id of this.drafts.keys()) if (!alive.has(id)) this.drafts.delete(id)
    for (const id of this.parts.keys()) if (!alive.has(id)) this.parts.delete(id)
    for (const id of this.spelled.keys()) if (!alive.has(id)) this.spelled.delete(id)
    const texts = source.settings.writesWords ? source.texts : []
    const score: Score = {
      swing,
      keys,
      tempos: tempoMarksOf(source.tempos),
      sections: source.sections,
      texts,
      chordSymbols: source.settings.writesWords ? source.chordSymbols : [],
      measures,
      repeats: [],
      returns: [],
      endings: [],
      barLines: [],
      breaks: [],
      misfits: source.homeless.map(
        (amendment): Misfit => ({ amendment, why: 'its note is not on the page' }),
      ),
      parts,
    }
    const misfits = [...score.misfits]
    const folds = foldsOf(score, source.amendments, misfits)
    const once =
      folds.length > 0
        ? folded(score, folds)
        : source.settings.foldsRepeats
          ? foldRepeats(score, handBars(source, drafts, measures))
          : score
    const amended = amendBars(once, source.amendments, misfits)
    return { ...amended, misfits }
  }

  /** Reads the parts one after another, as `build` will need them; in between something else can be done. */
  *reading(source: ScoreSource): Generator<void> {
    const swing = this.swingOf(source)
    for (const part of source.parts) {
      this.draft(part, source, swing)
      yield
    }
  }

  private draft(part: PartSource, source: ScoreSource, swing: Swing | null): DraftPart {
    const { settings, tempos, meters } = source
    const inputs = [
      part.notes,
      part.manuscript,
      JSON.stringify([
        settings,
        tempos,
        meters,
        part.instrument,
        part.staffSplitKey,
        part.transposition,
        part.controls,
        part.amendments.filter(({ aspect }) => aspect === 'staff'),
        swing,
      ]),
    ]
    const knownRead = this.reads.get(part.id)
    const read =
      knownRead && sameInputs(knownRead.inputs, inputs) ? knownRead.read : readPart(part, source, swing)
    this.reads.set(part.id, { inputs, read })
    const further = [read, JSON.stringify([part.sung, part.texts, part.amendments])]
    const known = this.drafts.get(part.id)
    if (known && sameInputs(known.inputs, further)) return known.draft
    const draft = draftPart(part, source, read)
    this.drafts.set(part.id, { inputs: further, draft })
    return draft
  }

  /** Names of the notes of each part; of one whose names are as they were, the same array. */
  private names(drafts: readonly DraftPart[], keys: readonly KeyChange[]): (readonly Fifths[])[] {
    const spelled = this.found.get([...drafts.map(({ written }) => written), JSON.stringify(keys)], () =>
      // Where all names are told, none has to be found.
      drafts.every(
        (draft) => !isPitched(draft) || namedNotes(draft).every(({ note }) => draft.names.has(note.id)),
      )
        ? drafts.map((draft) => namedNotes(draft).map(() => 0))
        : spellParts(
            drafts.map((draft) => (isPitched(draft) ? unspelled(namedNotes(draft)) : [])),
            keys,
          ),
    )
    return drafts.map((draft, index) => {
      const { id } = draft
      const known = this.spelled.get(id)
      const own = withNamesTold(draft, spelled[index]!)
      const kept = known && sameInputs(known, own) ? known : own
      this.spelled.set(id, kept)
      return kept
    })
  }

  private part(
    draft: DraftPart,
    measures: readonly Measure[],
    keys: readonly KeyChange[],
    names: readonly Fifths[],
  ): ScorePart {
    const inputs = [draft, measures.length, JSON.stringify(keys), names]
    const known = this.parts.get(draft.id)
    if (known && sameInputs(known.inputs, inputs)) return known.part
    const part = engravePart(draft, measures, keys, names)
    this.parts.set(draft.id, { inputs, part })
    return part
  }
}

/** Names as they were found, where none was told by hand. */
function withNamesTold(draft: DraftPart, found: readonly Fifths[]): readonly Fifths[] {
  if (draft.names.size === 0) return found
  const notes = namedNotes(draft)
  return found.map((name, index) => draft.names.get(notes[index]!.note.id) ?? name)
}

/** Bars in which something was changed by hand: they are never written as the repeat of others. */
function handBars(
  { parts }: ScoreSource,
  drafts: readonly DraftPart[],
  measures: readonly Measure[],
): ReadonlySet<number> {
  const bars = new Set<number>()
  const add = (tick: number) => bars.add(measures.findLastIndex(({ startTicks }) => startTicks <= tick))
  for (const [index, { amendments }] of parts.entries()) {
    const ids = new Set(amendments.flatMap((each) => (isOfNote(each) ? [each.noteId] : [])))
    for (const each of amendments) if (!isOfNote(each)) add(each.tick)
    if (ids.size === 0) continue
    for (const { note, onsetTicks } of namedNotes(drafts[index]!)) if (ids.has(note.id)) add(onsetTicks)
  }
  return bars
}

/** The last thing that was worked out, for as long as it would be worked out of the same. */
class Kept<Value> {
  private last: { readonly inputs: readonly unknown[]; readonly value: Value } | null = null

  get(inputs: readonly unknown[], work: () => Value): Value {
    if (!this.last || !sameInputs(this.last.inputs, inputs)) this.last = { inputs, value: work() }
    return this.last.value
  }
}

/** Writes a score once, without keeping anything. */
export function buildScore(source: ScoreSource): Score {
  return new ScoreBuilder().build(source)
}

function sameInputs(a: readonly unknown[], b: readonly unknown[]): boolean {
  return a.length === b.length && a.every((value, index) => value === b[index])
}

function isPitched({ plan }: DraftPart): boolean {
  return plan.clefs[0] !== 'percussion'
}

function unspelled(written: readonly WrittenNote[]): UnspelledNote[] {
  return written.map(({ note, onsetTicks, endTicks }) => ({ key: note.key, onsetTicks, endTicks }))
}

function pitched(drafts: readonly DraftPart[]): UnspelledNote[][] {
  return drafts.filter(isPitched).map(({ written }) => unspelled(written))
}

/** Keys that were told hold from the bar they lie in; the first of them from the beginning. */
function fromBarLines(keys: readonly KeyChange[], measures: readonly Measure[]): KeyChange[] {
  const byBar = new Map<number, KeyChange>()
  const end = measures.at(-1)!
  for (const [index, key] of keys.entries()) {
    // One that is told behind the last bar is of no bar.
    if (index > 0 && key.tick >= end.startTicks + end.lengthTicks) break
    const bar = measures.findLast(({ startTicks }) => startTicks <= key.tick)
    const tick = index === 0 ? 0 : (bar?.startTicks ?? 0)
    byBar.set(tick, { ...key, tick })
  }
  return [...byBar.values()].filter(
    ({ fifths }, index, all) => index === 0 || all[index - 1]!.fifths !== fifths,
  )
}
