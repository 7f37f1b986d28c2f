import { registersOf } from './registers'
import { isSounding, type LineNote, type Stroke, strokesOf } from './strokes'
import { lineWeights as weights } from './weights'

export interface SeparationOptions {
  /** How many lines there are. */
  readonly voices: number
  /** Notes that begin within this of each other are struck together; overlaps up to this mean nothing. */
  readonly togetherQuarters: number
  /** The voices that accompany, by number: chords and notes that sound on are natural there. */
  readonly accompanying?: ReadonlySet<number>
  /** For each note the voice it must stay in, or null; all are free without. */
  readonly pinned?: readonly (number | null)[]
}

/** One way to have read the music up to here. */
interface Path {
  readonly cost: number
  /** For each voice: the index of its last stroke's notes, or null before its first. */
  readonly last: readonly (VoiceEnd | null)[]
  readonly choice: readonly number[]
  readonly before: Path | null
}

/** Where a voice stands: what it played last. */
interface VoiceEnd {
  readonly notes: readonly number[]
  readonly meanKey: number
  readonly endQuarters: number
  readonly lengthQuarters: number
}

/** Paths that are followed at the same time: more find nothing better on the pieces tried. */
const pathsFollowed = 12
/** A path that is this much less likely than the best (e^12 times) is not followed. */
const hopeless = 12

/**
 * Tells the lines of a piece apart: every note gets a voice, 1 being the highest. Each stroke is given to voices in the order
 * of pitch; of all ways to do that over the whole piece, the likeliest is taken: voices move by small steps, do not pause
 * without need, keep to their register, do not cross, and play one note at a time. The registers are found where all voices
 * sound at once, since there the order of pitch is the order of voices.
 *
 * The moments of full texture as anchors are from E. Chew and X. Wu, Separating voices in polyphonic music: a contig mapping
 * approach, 2004; the search over the whole piece with costs for leaps and pauses from A. McLeod and M. Steedman, HMM-based
 * voice separation of MIDI performance, 2016. Chords inside a line and registers that move are added to them.
 *
 * @returns the voice of each note, in the order the notes were given
 */
export function separateVoices(notes: readonly LineNote[], options: SeparationOptions): number[] {
  if (notes.length === 0) return []
  const strokes = strokesOf(notes, options.togetherQuarters)
  const registers = registersOf(notes, strokes, options)
  const choicesOf = createChoices(notes, options.voices)
  let paths: Path[] = [{ cost: 0, last: new Array(options.voices).fill(null), choice: [], before: null }]
  for (const stroke of strokes) paths = follow(paths, stroke, choicesOf(stroke), notes, registers, options)
  const voiceOf = new Array<number>(notes.length).fill(1)
  let path: Path | null = paths[0]!
  for (let index = strokes.length - 1; index >= 0 && path; index--) {
    for (const [place, note] of strokes[index]!.entries()) voiceOf[note] = path.choice[place]! + 1
    path = path.before
  }
  return voiceOf
}

function follow(
  paths: readonly Path[],
  stroke: Stroke,
  allChoices: readonly (readonly number[])[],
  notes: readonly LineNote[],
  registers: ReturnType<typeof registersOf>,
  options: SeparationOptions,
): Path[] {
  const onsetQuarters = notes[stroke[0]!]!.onsetQuarters
  const register = registers.at(onsetQuarters)
  const choices = keepingPinned(allChoices, stroke, options.pinned)
    .map((choice) => ({ choice, cost: ownCost(choice, stroke, notes, register, options) }))
    .sort((a, b) => a.cost - b.cost)
  const ways: { readonly cost: number; readonly before: Path; readonly choice: readonly number[] }[] = []
  let cheapest = Number.POSITIVE_INFINITY
  for (const before of paths) {
    const costOfMove = moveCosts(before, stroke, notes, onsetQuarters, options)
    for (const { choice, cost: own } of choices) {
      if (before.cost + own > cheapest + hopeless) break
      const cost = before.cost + own + costOfMove(choice)
      if (cost > cheapest + hopeless) continue
      cheapest = Math.min(cheapest, cost)
      ways.push({ cost, before, choice })
    }
  }
  return likeliest(ways, stroke, notes)
}

/** The likeliest ways on that lead to different places; only these few are written out. */
function likeliest(
  ways: { readonly cost: number; readonly before: Path; readonly choice: readonly number[] }[],
  stroke: Stroke,
  notes: readonly LineNote[],
): Path[] {
  const cheapest = ways.reduce((least, { cost }) => Math.min(least, cost), Number.POSITIVE_INFINITY)
  const followed = ways.filter(({ cost }) => cost <= cheapest + hopeless).sort((a, b) => a.cost - b.cost)
  const ends = new Map<readonly number[], readonly (VoiceEnd | null)[]>()
  const paths: Path[] = []
  const known = new Set<string>()
  for (const { cost, before, choice } of followed) {
    if (paths.length === pathsFollowed) break
    let own = ends.get(choice)
    if (!own) {
      own = endsOf(choice, stroke, notes, before.last.length)
      ends.set(choice, own)
    }
    const last = before.last.map((end, voice) => own[voice] ?? end)
    const address = last.map((end) => end?.notes[0] ?? -1).join()
    if (known.has(address)) continue
    known.add(address)
    paths.push({ cost, last, choice, before })
  }
  return paths
}

/** Where the voices stand that a choice gives notes to; null for the others. */
function endsOf(
  choice: readonly number[],
  stroke: Stroke,
  notes: readonly LineNote[],
  voices: number,
): (VoiceEnd | null)[] {
  const ends: (VoiceEnd | null)[] = new Array(voices).fill(null)
  for (let place = 0; place < stroke.length; ) {
    let end = place
    while (end < stroke.length && choice[end] === choice[place]) end++
    ends[choice[place]!] = voiceEnd(stroke.slice(place, end), notes)
    place = end
  }
  return ends
}

function voiceEnd(stroke: readonly number[], notes: readonly LineNote[]): VoiceEnd {
  let [sum, endQuarters] = [0, 0]
  for (const index of stroke) {
    sum += notes[index]!.key
    endQuarters = Math.max(endQuarters, notes[index]!.endQuarters)
  }
  const lengthQuarters = endQuarters - notes[stroke[0]!]!.onsetQuarters
  return { notes: stroke, meanKey: sum / stroke.length, endQuarters, lengthQuarters }
}

/** More ways to give one stroke to voices are not looked at. */
const mostChoices = 1500

/**
 * The ways to give a stroke to voices in the order of pitch; several notes may go to one voice as a chord. Where there are too many
 * ways, no two groups share a voice, and of more notes than voices those that lie closest stay together. The ways are the same
 * for every stroke of so many notes that stay apart, and worked out once.
 */
function createChoices(notes: readonly LineNote[], voices: number) {
  const known = new Map<string, readonly (readonly number[])[]>()
  return (stroke: Stroke): readonly (readonly number[])[] => {
    const isFree = voices > 1 && waysToShare(stroke.length, voices) <= mostChoices
    const groupOf = groupsOf(stroke, notes, isFree ? stroke.length : voices)
    const address = groupOf.join()
    const choices = known.get(address) ?? choicesFor(groupOf, voices, isFree)
    known.set(address, choices)
    return choices
  }
}

/** @param groupOf for each note of a stroke, from the highest down, the group it stays in, from 0 */
function choicesFor(groupOf: readonly number[], voices: number, isFree: boolean): number[][] {
  const groups = groupOf.at(-1)! + 1
  const mayShare = isFree && groups > 1
  const choices: number[][] = []
  const choice: number[] = []
  const visit = (from: number) => {
    if (choice.length === groups) {
      choices.push(groupOf.map((group) => choice[group]!))
      return
    }
    for (let voice = from; voice < voices; voice++) {
      choice.push(voice)
      visit(mayShare ? voice : voice + 1)
      choice.pop()
    }
  }
  visit(0)
  return groups < groupOf.length ? choices : [...choices, ...choices.flatMap(swapped)]
}

/** Of the ways to give a stroke to voices those that leave pinned notes where they are; made fit where there is none. */
function keepingPinned(
  choices: readonly (readonly number[])[],
  stroke: Stroke,
  pinned: SeparationOptions['pinned'],
): readonly (readonly number[])[] {
  if (!pinned || stroke.every((note) => pinned[note] === null)) return choices
  const isKept = (choice: readonly number[]) =>
    stroke.every((note, place) => pinned[note] === null || choice[place] === pinned[note]! - 1)
  const kept = choices.filter(isKept)
  if (kept.length > 0) return kept
  const fitted = choices.map((choice) =>
    choice.map((voice, place) => (pinned[stroke[place]!] ?? voice + 1) - 1),
  )
  return [...new Map(fitted.map((choice) => [choice.join(), choice])).values()]
}

/** In how many ways so many notes go to voices in their order: combinations with repetition. */
function waysToShare(notes: number, voices: number): number {
  let ways = 1
  for (let voice = 1; voice < voices; voice++) ways *= (notes + voice) / voice
  return ways
}

/** For each note of a stroke its group, from 0: apart where the gaps of pitch are widest. */
function groupsOf(stroke: Stroke, notes: readonly LineNote[], most: number): number[] {
  const gapBefore = stroke.map((note, place) =>
    place === 0 ? 0 : notes[stroke[place - 1]!]!.key - notes[note]!.key,
  )
  const widest = stroke
    .map((_, place) => place)
    .slice(1)
    .sort((a, b) => gapBefore[b]! - gapBefore[a]! || a - b)
  const begins = new Set(widest.slice(0, most - 1))
  let group = 0
  return stroke.map((_, place) => (begins.has(place) ? ++group : group))
}

/** Neighbours in a stroke may have crossed. */
function swapped(choice: readonly number[]): number[][] {
  return choice.slice(1).flatMap((voice, place) => {
    if (voice === choice[place]) return []
    const crossed = [...choice]
    crossed[place] = voice
    crossed[place + 1] = choice[place]!
    // A chord stays in one piece.
    return crossed[place - 1] === crossed[place + 1] || crossed[place] === crossed[place + 2] ? [] : [crossed]
  })
}

/** What a choice costs by itself: register, and chords inside a voice. */
function ownCost(
  choice: readonly number[],
  stroke: Stroke,
  notes: readonly LineNote[],
  register: readonly number[],
  { accompanying }: SeparationOptions,
): number {
  let cost = 0
  for (const [place, voice] of choice.entries()) {
    const note = notes[stroke[place]!]!
    const off = (note.key - register[voice]!) / weights.registerSemitones
    cost += weights.register * Math.min(off * off, weights.mostRegister)
    if (place > 0 && choice[place - 1]! > voice && notes[stroke[place - 1]!]!.key > note.key)
      cost += weights.crossingStroke
    if (place > 0 && choice[place - 1] === voice && accompanying?.has(voice + 1))
      cost += weights.accompanyingChord
    else if (place > 0 && choice[place - 1] === voice) {
      const above = notes[stroke[place - 1]!]!
      const lengths = [note, above].map(({ onsetQuarters, endQuarters }) => endQuarters - onsetQuarters)
      const isUneven = Math.min(...lengths) < weights.evenLength * Math.max(...lengths)
      cost += weights.chord + (isUneven ? weights.unevenChord : 0)
      cost += weights.wideChord * Math.max(0, above.key - note.key - weights.chordSemitones)
    }
  }
  return cost
}

/** What it costs to come from where the voices stand: worked out for every note and voice once, then added up for each choice. */
function moveCosts(
  { last }: Path,
  stroke: Stroke,
  notes: readonly LineNote[],
  onsetQuarters: number,
  { togetherQuarters, accompanying }: SeparationOptions,
): (choice: readonly number[]) => number {
  const voices = last.length
  /** For each note of the stroke and each voice: what it costs that voice to go there. */
  const going = new Float64Array(stroke.length * voices)
  /** The same: 1 where the voice sounds on below the note, -1 above it, 0 at it or where it is silent. */
  const standingSides = new Int8Array(stroke.length * voices)
  for (let voice = 0; voice < voices; voice++) {
    const end = last[voice]
    if (!end) continue
    const sounds = isSounding(end, onsetQuarters, togetherQuarters)
    const pause = onsetQuarters - end.endQuarters
    const waiting =
      pause > 0
        ? weights.pause * Math.log2(1 + pause)
        : sounds && !accompanying?.has(voice + 1)
          ? weights.overlap * Math.min(1, -pause / Math.max(end.lengthQuarters, 1e-6))
          : 0
    for (let place = 0; place < stroke.length; place++) {
      const above = notes[stroke[place]!]!.key - end.meanKey
      going[place * voices + voice] = weights.leap * Math.min(Math.abs(above), weights.mostLeap) + waiting
      if (sounds) standingSides[place * voices + voice] = Math.sign(above)
    }
  }
  return (choice) => {
    let given = 0
    for (let place = 0; place < choice.length; place++) given |= 1 << choice[place]!
    let cost = 0
    for (let place = 0; place < choice.length; place++) {
      const voice = choice[place]!
      if (place === 0 || choice[place - 1] !== voice) cost += going[place * voices + voice]!
      for (let other = 0; other < voices; other++) {
        const side = standingSides[place * voices + other]!
        // A higher voice that sounds on below the note, or a lower one above it.
        if (side !== 0 && !(given & (1 << other)) && (other < voice ? side > 0 : other > voice && side < 0))
          cost += weights.crossing
      }
    }
    return cost
  }
}
