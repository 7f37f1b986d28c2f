import type { NoteId } from '../../event/note'
import { beatUnitTicks } from '../../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { type Head, standingIn } from '../heads'
import { keyAt, type Score, type SpelledPitch } from '../score'
import { letters } from '../spelling'
import { ticksOfValue } from '../values'
import { type Amendment, addressOf, type HandSign, mostLinesOfStaff, type WrittenLevel } from './amendment'
import { type BarStroke, drawOnBars, hideRest } from './penOnBars'
import { type Chosen, type ChosenOnPage, type Drawn, drawn, refuse, type Stroke } from './stroke'

/**
 * What a stroke of the pen changes on a page: amendments over the reading, and earlier ones that are taken back. What was played stays as
 * it is.
 *
 * @param score as it is now, with earlier amendments
 * @param heardAt where a note was played
 */
export function draw(
  score: Score,
  existing: readonly Amendment[],
  heardAt: (noteId: NoteId) => Ticks,
  chosenOnPage: ChosenOnPage,
  stroke: Stroke,
): Drawn {
  const placed = placeIn(score, chosenOnPage)
  const chosen = placed && {
    ...placed,
    score,
    existing: new Map(existing.map((each) => [addressOf(each), each])),
    heardAt,
  }
  if (!chosen) return refuse('Nothing on the page is chosen.')
  switch (stroke.to) {
    case 'clef':
    case 'barLine':
    case 'repeat':
    case 'ending':
    case 'break':
      return drawOnBars(chosen, stroke)
    case 'rest':
      return hideRest(chosen)
    default:
      return chosen.heads.length === 0
        ? refuse('That is written at notes: choose one.')
        : drawOnNotes(chosen, stroke)
  }
}

type NoteStroke = Exclude<Stroke, BarStroke | { readonly to: 'rest' }>

function placeIn(score: Score, chosen: ChosenOnPage): Pick<Chosen, 'heads' | 'first' | 'rest'> | null {
  if (chosen.kind === 'rest') {
    const partIndex = score.parts.findIndex(({ id }) => id === chosen.partId)
    const bar = barAt(score, chosen.tick)
    const line = score.parts[partIndex]?.measures[bar]?.find(({ voice }) => voice === chosen.voice)
    return line
      ? { heads: [], first: { partIndex, bar, lastBar: bar, staff: line.staff }, rest: chosen }
      : null
  }
  const standing = standingIn(score)
  // A head that stands for several notes is one.
  const own = new Map(
    chosen.noteIds.flatMap((id) => {
      const head = standing.head(id)
      return head ? [[nameOfHead(head), head]] : []
    }),
  )
  const ordered = [...own.values()].sort((a, b) => a.onsetTicks - b.onsetTicks || a.note.key - b.note.key)
  const first = ordered[0]
  if (!first) return null
  const { partIndex, bar, staff } = first
  return { heads: ordered, first: { partIndex, bar, lastBar: ordered.at(-1)!.bar, staff }, rest: null }
}

function barAt({ measures }: Score, tick: Ticks): number {
  return measures.findLastIndex(({ startTicks }) => startTicks <= tick)
}

const nameOfHead = ({ note }: Head): NoteId => note.noteIds[0]!

function drawOnNotes(chosen: Chosen, stroke: NoteStroke): Drawn {
  const { heads, existing } = chosen
  const timed = heads.filter(({ isGrace }) => !isGrace)
  const onTimed = (change: (head: Head) => Amendment | string): Drawn => {
    if (timed.length === 0) return refuse('Grace notes have no place and no value of the bar.')
    const changes = timed.map(change)
    const problem = changes.find((each) => typeof each === 'string')
    return problem === undefined ? drawn(changes as Amendment[]) : refuse(problem as string)
  }
  switch (stroke.to) {
    case 'value':
      return onTimed((head) =>
        timeOf(head, chosen, head.onsetTicks, ticksOfValue(stroke.type) * shareOf(head)),
      )
    case 'dot':
      return onTimed((head) => {
        const { value } = head.chord
        const plain = ticksOfValue(value.type) * shareOf(head)
        const length = head.endTicks - head.onsetTicks
        return timeOf(head, chosen, head.onsetTicks, length === plain * 1.5 ? plain : plain * 1.5)
      })
    case 'place':
      return onTimed((head) => {
        const onsetTicks = head.onsetTicks + stroke.byTicks
        return onsetTicks < 0
          ? 'The piece begins there.'
          : timeOf(head, chosen, onsetTicks, head.endTicks - head.onsetTicks)
      })
    case 'tuplet':
      return drawTuplet(chosen, timed, stroke.actual)
    case 'tie': {
      const isAnyTied = timed.some(
        (head) =>
          existing.has(`tie ${nameOfHead(head)}`) ||
          head.note.noteIds.some((id) => existing.has(`tie ${id}`)),
      )
      if (isAnyTied)
        return drawn(
          [],
          timed.flatMap(({ note }) => note.noteIds.map((id) => `tie ${id}`)),
        )
      return onTimed((head) =>
        nextOfKey(chosen.score, head)
          ? { aspect: 'tie', noteId: nameOfHead(head) }
          : 'No note of the same pitch follows: there is nothing to tie it to.',
      )
    }
    case 'name':
      return drawn(heads.flatMap((head) => nextName(chosen.score, head) ?? []))
    case 'line':
      return stroke.line > mostLinesOfStaff
        ? refuse(`A staff has up to ${mostLinesOfStaff} voices.`)
        : onTimed((head) => ({ aspect: 'line', noteId: nameOfHead(head), line: stroke.line }))
    case 'staff':
      return chosen.score.parts[chosen.first.partIndex]!.clefs.length < 2
        ? refuse('The part has one staff.')
        : onTimed((head) => ({ aspect: 'staff', noteId: nameOfHead(head), staff: head.staff === 1 ? 2 : 1 }))
    case 'sign':
      return drawSign(chosen, timed, stroke.sign)
    case 'fingering':
      return stroke.text === ''
        ? drawn(
            [],
            heads.map((head) => `fingering ${nameOfHead(head)}`),
          )
        : drawn(heads.map((head) => ({ aspect: 'fingering', noteId: nameOfHead(head), text: stroke.text })))
    case 'level':
      return drawLevel(chosen, stroke.mark)
    case 'hairpin':
      return drawHairpin(chosen, stroke.kind)
    case 'slur':
      return drawSlur(chosen)
  }
}

/** What a value is worth where the note stands: in a triplet two thirds. */
function shareOf({ chord: { tuplet } }: Head): number {
  return tuplet ? tuplet.normal / tuplet.actual : 1
}

function timeOf(
  head: Head,
  { heardAt }: Pick<Chosen, 'heardAt'>,
  onsetTicks: Ticks,
  durationTicks: Ticks,
): Amendment {
  const noteId = nameOfHead(head)
  return {
    aspect: 'time',
    noteId,
    heardTicks: heardAt(noteId),
    onsetTicks: Math.round(onsetTicks),
    durationTicks: Math.max(1, Math.round(durationTicks)),
  }
}

function drawTuplet(chosen: Chosen, heads: readonly Head[], actual: 3 | 5 | 6 | 7 | null): Drawn {
  const first = heads[0]
  if (!first) return refuse('Grace notes have no place and no value of the bar.')
  const measure = chosen.score.measures[first.bar]!
  const beat = beatUnitTicks(measure)
  const onsets = [...new Set(heads.map(({ onsetTicks }) => onsetTicks))]
  const inBar = first.onsetTicks - measure.startTicks
  const start = measure.startTicks + Math.floor(inBar / beat) * beat
  const last = onsets.at(-1)!
  const parts = actual ?? evenParts(onsets.length)
  // Values that are alike become as many in the time of fewer: three quarters those of two.
  const length = first.endTicks - first.onsetTicks
  const areAlike = heads.every((head) => head.endTicks - head.onsetTicks === length)
  const ofValue = areAlike && onsets.length === parts ? length * (inTimeOf[parts] ?? parts) : null
  const spanTicks = [beat, beat * 2].find((span) => last < start + span) ?? ofValue
  if (spanTicks === null || start + spanTicks > measure.startTicks + measure.lengthTicks)
    return refuse(
      'The notes of a tuplet lie in one beat, or in two; or they have one value and begin with a beat.',
    )
  if (onsets.length > parts) return refuse(`There are more notes than ${parts}.`)
  const step = spanTicks / parts
  return drawn(
    heads.map((head) => {
      const place = onsets.indexOf(head.onsetTicks)
      const onsetTicks = start + place * step
      const endTicks = place === onsets.length - 1 ? start + spanTicks : onsetTicks + step
      return timeOf(head, chosen, onsetTicks, endTicks - onsetTicks)
    }),
  )
}

/** In the time of how many so many notes are played. */
const inTimeOf: Readonly<Record<number, number>> = { 1: 1, 2: 2, 3: 2, 4: 4, 5: 4, 6: 4, 7: 4, 8: 8 }

/** The fewest even parts that hold so many notes. */
function evenParts(count: number): number {
  let parts = 1
  while (parts < count) parts *= 2
  return parts
}

function drawSign({ existing }: Chosen, heads: readonly Head[], sign: HandSign): Drawn {
  if (heads.length === 0) return refuse('Grace notes have no signs.')
  const isOn = !heads.every(({ chord }) => chord.articulations.includes(sign))
  const amendments: Amendment[] = []
  const takenBack: string[] = []
  for (const head of heads) {
    if (head.chord.articulations.includes(sign) === isOn) continue
    // A sign stands at a chord: what its other notes were told holds for them all.
    for (const { noteIds } of head.chord.notes) {
      const noteId = noteIds[0]!
      const address = `sign ${sign} ${noteId}`
      if (existing.has(address)) takenBack.push(address)
      else amendments.push({ aspect: 'sign', noteId, sign, isOn })
    }
  }
  return drawn(amendments, takenBack)
}

function drawLevel({ score, heads, existing, first }: Chosen, mark: WrittenLevel | null): Drawn {
  const head = heads[0]!
  const noteId = nameOfHead(head)
  const address = `level ${noteId}`
  const standing = score.parts[first.partIndex]!.dynamics.levels.find(({ tick }) => tick === head.onsetTicks)
  if (mark === null || standing?.mark === mark)
    return existing.has(address)
      ? drawn([], [address])
      : standing
        ? drawn([{ aspect: 'level', noteId, mark: null }])
        : refuse('No level stands there.')
  return drawn([{ aspect: 'level', noteId, mark }])
}

function drawHairpin(
  { score, heads, existing, first }: Chosen,
  kind: 'crescendo' | 'diminuendo' | null,
): Drawn {
  const [start, end] = [heads[0]!, heads.reduce((a, b) => (b.endTicks > a.endTicks ? b : a))]
  const noteId = nameOfHead(start)
  const over = score.parts[first.partIndex]!.dynamics.hairpins.find(
    ({ startTicks, endTicks }) => startTicks < end.endTicks && endTicks > start.onsetTicks,
  )
  const isSame =
    over && over.kind === kind && over.startTicks === start.onsetTicks && over.endTicks === end.endTicks
  if (kind === null || isSame) {
    if (!over) return refuse('No hairpin lies there.')
    const byHand = hairpinsByHand(score, existing).filter(
      (each) => each.startTicks < end.endTicks && each.endTicks > start.onsetTicks,
    )
    return byHand.length > 0
      ? drawn(
          [],
          byHand.map(({ address }) => address),
        )
      : drawn([{ aspect: 'hairpin', noteId, to: null }])
  }
  if (heads.length < 2) return refuse('A hairpin goes from one note to another: choose both.')
  return drawn([{ aspect: 'hairpin', noteId, to: { noteId: nameOfHead(end), kind } }])
}

function hairpinsByHand(score: Score, existing: Chosen['existing']) {
  const standing = standingIn(score)
  return [...existing].flatMap(([address, each]) => {
    if (each.aspect !== 'hairpin' || each.to === null) return []
    const [start, end] = [standing.head(each.noteId), standing.head(each.to.noteId)]
    return start && end ? [{ address, startTicks: start.onsetTicks, endTicks: end.endTicks }] : []
  })
}

function drawSlur({ score, heads, existing, first }: Chosen): Drawn {
  const [start, end] = [heads[0]!, heads.at(-1)!]
  const over = score.parts[first.partIndex]!.slurs.filter(
    ({ voice, startTicks, endTicks }) =>
      voice === start.voice && startTicks <= end.onsetTicks && endTicks >= start.onsetTicks,
  )
  const isThere = over.some(
    ({ startTicks, endTicks }) => startTicks === start.onsetTicks && endTicks === end.onsetTicks,
  )
  const isAlone = start.onsetTicks === end.onsetTicks
  if (isThere || (isAlone && over.length > 0)) {
    const byHand = [...existing].filter(([, each]) => {
      if (each.aspect !== 'slur' || each.toNoteId === null) return false
      const tick = standingIn(score).head(each.noteId)?.onsetTicks
      return over.some(({ startTicks }) => startTicks === tick)
    })
    return byHand.length > 0
      ? drawn(
          [],
          byHand.map(([address]) => address),
        )
      : drawn([{ aspect: 'slur', noteId: nameOfHead(start), toNoteId: null }])
  }
  if (isAlone) return refuse('A slur goes from one note to another: choose both.')
  if (end.voice !== start.voice || end.partIndex !== start.partIndex)
    return refuse('A slur binds notes of one voice.')
  return drawn([{ aspect: 'slur', noteId: nameOfHead(start), toNoteId: nameOfHead(end) }])
}

/** The next head of the same key in the part, if it begins at most a quarter after this one ends. */
function nextOfKey(score: Score, head: Head): Head | undefined {
  let next: Head | undefined
  for (const each of standingIn(score).heads)
    if (
      each.partIndex === head.partIndex &&
      each.note.key === head.note.key &&
      each.onsetTicks > head.onsetTicks &&
      !each.isGrace &&
      (!next || each.onsetTicks < next.onsetTicks)
    )
      next = each
  return next && next.onsetTicks <= head.endTicks + TICKS_PER_QUARTER ? next : undefined
}

/** Place of a written name on the line of fifths. */
export function fifthsOf({ step, alter }: Pick<SpelledPitch, 'step' | 'alter'>): number {
  return letters.indexOf(step) - 1 + 7 * alter
}

/** Names from F double flat to B double sharp, of what is written and what sounds. */
const [lowestName, highestName] = [-15, 19]
/** D: as far from the sharps as from the flats. */
const middleName = 2

function nextName(score: Score, { note, partIndex, onsetTicks }: Head): Amendment | null {
  const part = score.parts[partIndex]!
  const moved = keyAt(part.keys, onsetTicks).fifths - keyAt(score.keys, onsetTicks).fifths
  const written = fifthsOf(note.pitch)
  const names = [0, 12, -12, 24, -24]
    .map((steps) => written + steps)
    .filter(
      (name) =>
        name >= lowestName &&
        name <= highestName &&
        name - moved >= lowestName &&
        name - moved <= highestName,
    )
    // The plainest first, and round again behind the last.
    .sort((a, b) => Math.abs(a - middleName) - Math.abs(b - middleName))
  const next = names[(names.indexOf(written) + 1) % names.length]!
  return next === written
    ? null
    : { aspect: 'spelling', noteId: note.noteIds[0]!, key: note.key, fifths: next - moved }
}
