import type { Note, NoteId, StaffNumber } from '../event/note'
import { firstIndex } from '../time/firstIndex'
import { beatUnitTicks, isCompound, type Measure } from '../time/meterMap'
import { TICKS_PER_QUARTER, type Ticks } from '../time/units'
import { signatureAlter } from './accidentals'
import type { WrittenLevel } from './amendments/amendment'
import { type Head, standingIn } from './heads'
import { keyOf, letterAt, stepOf } from './pitchSteps'
import { type Articulation, keyAt, type Score, type ScorePart, type SpelledPitch, staffOf } from './score'
import type { KeyChange } from './scoreSettings'

/** How long a note sounds of its written value. (Common practice; a note that is not bound is let go a little early.) */
const gates = { usual: 0.9, staccato: 0.5, staccatissimo: 0.25, bound: 1 } as const

/** The force each level is played with, from General MIDI's practice of even steps around mezzo forte. */
const forces: Readonly<Record<WrittenLevel, number>> = {
  ppp: 20,
  pp: 34,
  p: 48,
  mp: 62,
  mf: 76,
  f: 92,
  ff: 108,
  fff: 122,
  fp: 92,
  sf: 104,
  sfz: 112,
}
/** Levels that are of one note; what comes after is as before, or soft after a forte-piano. */
const ofOneNote: ReadonlySet<WrittenLevel> = new Set(['sf', 'sfz', 'fp'])
const accents = { accent: 16, marcato: 26 } as const
/** A hairpin leads to the level at its end, or this much up or down where none is. */
const hairpinStep = 16
const quickTicks: Ticks = TICKS_PER_QUARTER / 8
const rollTicks: Ticks = TICKS_PER_QUARTER / 24

/**
 * Notes as a player would play them who plays what is written: values by their gate, levels and hairpins as force, staccato short, slurs
 * bound, ornaments and grace notes played out, chords rolled, swing swung. Where something is written once and played twice, it sounds
 * twice.
 *
 * @returns for each part its notes in order of onset, those of a head with the identity of the note it is for
 */
export function soundOfScore(score: Score): ReadonlyMap<string, readonly Note[]> {
  return soundWithin(score).sounds
}

/** The same, with the notes that sound for an ornament by the note that is written for it. */
export function soundWithin(score: Score): {
  readonly sounds: ReadonlyMap<string, readonly Note[]>
  readonly within: ReadonlyMap<NoteId, readonly NoteId[]>
} {
  const within = new Map<NoteId, NoteId[]>()
  const sounds = new Map<string, Note[]>(score.parts.map(({ id }) => [id, []]))
  const standing = standingIn(score)
  const all = score.parts.flatMap((_, partIndex) => standing.headsOf(partIndex))
  let nextId = 1
  for (const { note } of all) for (const id of note.noteIds) nextId = Math.max(nextId, id + 1)
  const force = score.parts.map((part) => forceOf(part))
  const slurred = score.parts.map((part) => boundIn(part))
  for (const head of all) {
    const part = score.parts[head.partIndex]!
    const own = soundOfHead(score, part, head, force[head.partIndex]!, slurred[head.partIndex]!)
    for (const sound of own) {
      const id = sound.id ?? nextId++
      const main = head.note.noteIds[0]!
      if (sound.id === null) within.set(main, [...(within.get(main) ?? []), id])
      sounds.get(part.id)!.push({
        id,
        onsetTicks: Math.max(0, Math.round(sound.onsetTicks)),
        durationTicks: Math.max(1, Math.round(sound.durationTicks)),
        key: sound.key,
        velocity: Math.max(1, Math.min(127, Math.round(sound.velocity))),
        releaseVelocity: 64,
        channel: 1,
        origin: { kind: 'drawn' },
        // As it stands: what has reached over is on the other staff.
        ...(part.clefs.length > 1 && { staff: (staffOf(head.chord, head) === 2 ? 2 : 1) as StaffNumber }),
      })
    }
  }
  playedAgain(score, sounds)
  return { sounds, within }
}

/** Puts in what is written once and played twice, in order of onset; the same map. */
export function playedAgain(
  { returns }: Pick<Score, 'returns'>,
  sounds: ReadonlyMap<string, Note[]>,
): ReadonlyMap<string, readonly Note[]> {
  let nextId = 1
  for (const notes of sounds.values()) for (const { id } of notes) nextId = Math.max(nextId, id + 1)
  for (const notes of sounds.values()) {
    for (const { againFromTicks, againToTicks, writtenFromTicks } of returns) {
      const untilTicks = writtenFromTicks + againToTicks - againFromTicks
      const first = notes.filter(
        ({ onsetTicks }) => onsetTicks >= writtenFromTicks && onsetTicks < untilTicks,
      )
      for (const note of first)
        notes.push({
          ...note,
          id: nextId++,
          onsetTicks: note.onsetTicks - writtenFromTicks + againFromTicks,
        })
    }
    notes.sort((a, b) => a.onsetTicks - b.onsetTicks || a.key - b.key)
  }
  return sounds
}

const noSigns: ReadonlySet<Articulation> = new Set()

interface Sound {
  /** null: made for an ornament. */
  readonly id: NoteId | null
  readonly onsetTicks: Ticks
  readonly durationTicks: Ticks
  readonly key: number
  readonly velocity: number
}

function soundOfHead(
  score: Score,
  part: ScorePart,
  head: Head,
  forceAt: (tick: Ticks) => number,
  isBound: (voice: number, tick: Ticks) => boolean,
): Sound[] {
  const { note, chord, voice, isGrace } = head
  const signs = chord.articulations.length === 0 ? noSigns : new Set(chord.articulations)
  const onsetTicks = swung(score, head.onsetTicks)
  const endTicks = swung(score, head.endTicks)
  const velocity =
    forceAt(head.onsetTicks) +
    (signs.has('marcato') ? accents.marcato : signs.has('accent') ? accents.accent : 0)
  if (isGrace) {
    const place = chord.graces.indexOf(note)
    const before = (chord.graces.length - place) * quickTicks
    return [
      {
        id: note.noteIds[0]!,
        onsetTicks: onsetTicks - before,
        durationTicks: quickTicks,
        key: note.key,
        velocity: velocity * 0.9,
      },
    ]
  }
  const gate = signs.has('staccatissimo')
    ? gates.staccatissimo
    : signs.has('staccato')
      ? gates.staccato
      : signs.has('tenuto') || signs.has('fermata') || isBound(voice, head.onsetTicks)
        ? gates.bound
        : gates.usual
  const rolled = signs.has('rolled') ? chord.notes.indexOf(note) * rollTicks : 0
  const lengthTicks = (endTicks - onsetTicks) * gate
  const plain: Sound = {
    id: note.noteIds[0]!,
    onsetTicks: onsetTicks + rolled,
    durationTicks: Math.max(quickTicks / 2, lengthTicks - rolled),
    key: note.key,
    velocity,
  }
  const keys = ornamentKeys(part, head)
  return keys ? playedOut(plain, keys.keys, keys.goesOn) : [plain]
}

/** The keys of an ornament in turn, each as long as a thirty-second; `goesOn`: over and over for as long as the note. */
function ornamentKeys(
  part: ScorePart,
  { note, chord, onsetTicks }: Head,
): { readonly keys: readonly number[]; readonly goesOn: boolean } | null {
  const { key, pitch } = note
  const signs = chord.articulations
  if (signs.length === 0) return null
  const above = () => key + neighbour(pitch, 1, keyAt(part.keys, onsetTicks))
  const below = () => key + neighbour(pitch, -1, keyAt(part.keys, onsetTicks))
  if (signs.includes('trill')) return { keys: [key, above()], goesOn: true }
  if (signs.includes('tremolo')) return { keys: [key], goesOn: true }
  if (signs.includes('upper mordent')) return { keys: [key, above(), key], goesOn: false }
  if (signs.includes('lower mordent')) return { keys: [key, below(), key], goesOn: false }
  if (signs.includes('turn')) return { keys: [above(), key, below(), key], goesOn: false }
  return null
}

function playedOut(plain: Sound, keys: readonly number[], goesOn: boolean): Sound[] {
  const fitting = Math.floor(plain.durationTicks / quickTicks)
  const count = goesOn ? fitting : Math.min(keys.length, fitting)
  if (count < 2 || keys.indexOf(plain.key) >= count) return [plain]
  const endTicks = plain.onsetTicks + plain.durationTicks
  // The note that is written is the first of these on its key.
  const own = keys.indexOf(plain.key)
  return Array.from({ length: count }, (_, place): Sound => {
    const onsetTicks = plain.onsetTicks + place * quickTicks
    const isLast = place === count - 1
    return {
      ...plain,
      id: place === own ? plain.id : null,
      key: keys[place % keys.length]!,
      onsetTicks,
      durationTicks: isLast ? endTicks - onsetTicks : quickTicks * 0.95,
    }
  })
}

/** How far the next step of the key lies from a note, in semitones. */
function neighbour(pitch: SpelledPitch, by: 1 | -1, { fifths }: KeyChange): number {
  const next = letterAt(stepOf(pitch) + by)
  return keyOf({ ...next, alter: signatureAlter(next.step, fifths) }) - keyOf(pitch)
}

/** The force in force at a place: that of the last level, on the way of a hairpin to the next. */
function forceOf({ dynamics: { levels, hairpins } }: ScorePart): (tick: Ticks) => number {
  const lasting = levels.map(({ tick, mark }, index) => {
    if (!ofOneNote.has(mark)) return { tick, force: forces[mark] }
    const before = levels.slice(0, index).findLast((each) => !ofOneNote.has(each.mark))
    return { tick: tick + 1, force: mark === 'fp' ? forces.p : forces[before?.mark ?? 'mf'] }
  })
  const single = new Map(
    levels.filter(({ mark }) => ofOneNote.has(mark)).map(({ tick, mark }) => [tick, mark]),
  )
  const levelAt = (tick: Ticks) => lastFrom(lasting, tick, (level) => level.tick)?.force ?? forces.mf
  return (tick) => {
    const mark = single.get(tick)
    if (mark) return forces[mark]
    const begun = lastFrom(hairpins, tick, ({ startTicks }) => startTicks)
    const pin = begun && tick < begun.endTicks ? begun : undefined
    const from = levelAt(tick)
    if (!pin) return from
    const next = levels[firstIndex(levels.length, (index) => levels[index]!.tick >= pin.endTicks)]
    const isNear = next !== undefined && next.tick <= pin.endTicks + TICKS_PER_QUARTER
    const to = isNear ? forces[next.mark] : from + (pin.kind === 'crescendo' ? hairpinStep : -hairpinStep)
    return from + ((to - from) * (tick - pin.startTicks)) / (pin.endTicks - pin.startTicks)
  }
}

/** The last that begins at a place or before it. */
function lastFrom<Of>(sorted: readonly Of[], tick: Ticks, startOf: (each: Of) => Ticks): Of | undefined {
  return sorted[firstIndex(sorted.length, (index) => startOf(sorted[index]!) > tick) - 1]
}

/** Whether a note of a voice is bound to the next by a slur. */
function boundIn({ slurs }: ScorePart): (voice: number, tick: Ticks) => boolean {
  return (voice, tick) =>
    slurs.some((slur) => slur.voice === voice && tick >= slur.startTicks && tick < slur.endTicks)
}

/** Where a place is played in a piece that swings: the second half of a beat comes later. */
function swung({ swing, measures }: Score, tick: Ticks): Ticks {
  if (!swing) return tick
  const measure: Measure | undefined = measures.findLast(({ startTicks }) => startTicks <= tick)
  if (!measure || isCompound(measure)) return tick
  const beat = beatUnitTicks(measure)
  const inBeat = (tick - measure.startTicks) % beat
  return inBeat * 2 === beat ? tick - inBeat + swing.secondAt * beat : tick
}
