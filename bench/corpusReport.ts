import { drawnNote } from '../src/core/event/notes.testing'
import { signatureAlter } from '../src/core/notation/accidentals'
import { keySignatureName } from '../src/core/notation/keyFinding'
import { type KnownScore, knownScores, notesOfKnownScore } from '../src/core/notation/knownScores.testing'
import { type JudgedNote, type JudgedScore, type Mv2h, mv2h } from '../src/core/notation/mv2h.testing'
import { playTouched } from '../src/core/notation/rhythm/touchingPlayer.testing'
import type { Score, SpelledPitch } from '../src/core/notation/score'
import { pitchOf, spellParts } from '../src/core/notation/spelling'
import { emptyProject, newClip, newTrack } from '../src/core/project/create'
import { scoreOf } from '../src/core/project/onPage'
import type { Project } from '../src/core/project/schema'
import { beatUnitTicks, type Measure, MeterMap } from '../src/core/time/meterMap'
import { TICKS_PER_QUARTER } from '../src/core/time/units'

/**
 * How near the page comes to published scores, played to a click by a player that shares no assumption with the reading: onset,
 * value, staff and voice, names in and outside the key, key, rests for each note, and MV2H. Nothing was fitted on these pieces.
 */

const tempoBpm = 100
const percent = (share: number) => (100 * share).toFixed(1).padStart(6)
const nameOf = ({ step, alter, octave }: SpelledPitch) => `${step}${alter} ${octave}`

/** Bars begin at 0: a pickup is filled up from before. */
function shiftOf({ meter, firstBarLine }: KnownScore): number {
  const barSixteenths = (meter.numerator * 16) / meter.denominator
  return firstBarLine === 0 ? 0 : (barSixteenths - firstBarLine) / 4
}

const isKeyboard = ({ title }: KnownScore) => /mazurka|polonaise|prelude/.test(title)

function performed(score: KnownScore, seed: number): Project {
  const shift = shiftOf(score)
  const notes = notesOfKnownScore(score)
  let project: Project = {
    ...emptyProject('corpus', score.title, 0),
    tempos: [{ tick: 0, tempoBpm }],
    meters: [{ tick: 0, ...score.meter } as Project['meters'][number]],
  }
  const parts = isKeyboard(score)
    ? [notes]
    : score.parts.map((_, part) => notes.filter((note) => note.part === part))
  let id = 1
  for (const [index, part] of parts.entries()) {
    const known = part.map(({ onsetQuarters, endQuarters, key }) => ({
      onsetTicks: Math.round((onsetQuarters + shift) * TICKS_PER_QUARTER),
      durationTicks: Math.round((endQuarters - onsetQuarters) * TICKS_PER_QUARTER),
      key,
    }))
    const played = playTouched(known, {
      touch: 'even',
      tempoBpm,
      errorMs: 12,
      chordSpreadMs: 10,
      seed: seed + index,
    })
    const clip = newClip(
      `c${index}`,
      'played',
      played.map((note) => drawnNote({ ...note, id: id++ })).sort((a, b) => a.onsetTicks - b.onsetTicks),
    )
    project = newTrack(project, {
      name: `Part ${index + 1}`,
      instrument: { kind: 'program', program: isKeyboard(score) ? 0 : 40 },
      clips: [clip],
    }).project
  }
  return { ...project, scoreSettings: { ...project.scoreSettings, followsHands: true } }
}

interface WrittenNote extends JudgedNote {
  readonly name: string
  readonly staff: number
}

function writtenNotes(score: Score): WrittenNote[] {
  const notes: WrittenNote[] = []
  for (const [partIndex, part] of score.parts.entries()) {
    const open = new Map<string, number>()
    for (const [bar, voices] of part.measures.entries())
      for (const { voice, staff, elements } of voices)
        for (const element of elements) {
          if (element.kind !== 'chord') continue
          const onsetTicks = score.measures[bar]!.startTicks + element.startTicks
          for (const note of element.notes) {
            const address = `${voice} ${note.key}`
            const endTicks = onsetTicks + element.durationTicks
            const tied = note.tiesFromPrevious ? open.get(address) : undefined
            if (tied !== undefined) notes[tied] = { ...notes[tied]!, endTicks }
            else {
              open.set(address, notes.length)
              notes.push({
                onsetTicks,
                endTicks,
                key: note.key,
                voice: partIndex * 100 + voice,
                staff: score.parts.length > 1 ? partIndex : staff - 1,
                name: nameOf(note.pitch),
              })
            }
          }
        }
  }
  return notes
}

function groupsOf(measures: readonly Measure[]): JudgedScore['groups'] {
  return measures.flatMap((measure) => {
    const { startTicks, lengthTicks } = measure
    const beat = beatUnitTicks(measure)
    const groups = [{ startTicks, endTicks: startTicks + lengthTicks }]
    for (const length of [beat, beat / 2])
      for (let at = 0; at < lengthTicks; at += length)
        groups.push({ startTicks: startTicks + at, endTicks: startTicks + at + length })
    return groups
  })
}

function judge(score: KnownScore) {
  const shift = shiftOf(score)
  const known = notesOfKnownScore(score).map((note) => ({
    ...note,
    onsetTicks: Math.round((note.onsetQuarters + shift) * TICKS_PER_QUARTER),
    endTicks: Math.round((note.endQuarters + shift) * TICKS_PER_QUARTER),
    voice: note.part,
  }))
  const page = scoreOf(performed(score, 77))
  const written = writtenNotes(page)
  const places = new Map(written.map((note) => [`${note.onsetTicks} ${note.key}`, note]))
  const key = score.keys[0]!
  const count = { onset: 0, value: 0, staff: 0, name: 0, outside: 0, outsideRight: 0 }
  for (const note of known) {
    const found = places.get(`${note.onsetTicks} ${note.key}`)
    const isOutside = note.pitch.alter !== signatureAlter(note.pitch.step, key.fifths)
    if (isOutside) count.outside++
    if (!found) continue
    count.onset++
    if (found.endTicks === note.endTicks) count.value++
    if (found.staff === note.part) count.staff++
    if (found.name === nameOf(note.pitch)) {
      count.name++
      if (isOutside) count.outsideRight++
    }
  }
  let rests = 0
  for (const part of page.parts)
    for (const { elements } of part.measures.flat())
      for (const element of elements) if (element.kind === 'rest' && !element.isHidden) rests++
  const measures = new MeterMap([{ tick: 0, ...score.meter }]).measuresUntil(
    Math.max(...known.map(({ endTicks }) => endTicks)),
  )
  const last = known.reduce((low, note) =>
    note.endTicks > low.endTicks || (note.endTicks === low.endTicks && note.key < low.key) ? note : low,
  )
  const isMinor = (last.key * 7) % 12 === (((key.fifths + 3) % 12) + 12) % 12
  const figures = mv2h(
    { notes: known, groups: groupsOf(measures), fifths: key.fifths, mode: isMinor ? 'minor' : 'major' },
    {
      notes: written,
      groups: groupsOf(page.measures),
      fifths: page.keys[0]!.fifths,
      mode: page.keys[0]!.mode,
    },
  )
  return { count, notes: known.length, rests, figures, key: keySignatureName(page.keys[0]!) }
}

const columns: readonly (keyof Mv2h)[] = ['multiPitch', 'voice', 'meter', 'value', 'harmony', 'all']
console.log(
  `${''.padEnd(48)} notes  onset  value  staff   name outside  rests  key          ${columns.map((name) => name.slice(0, 6).padStart(6)).join(' ')}`,
)
const judged = knownScores.map((score) => ({ title: score.title, ...judge(score) }))
for (const { title, count, notes, rests, figures, key } of judged)
  console.log(
    `${title.padEnd(48)}${String(notes).padStart(6)} ${percent(count.onset / notes)} ${percent(count.value / notes)} ${percent(count.staff / count.onset)} ${percent(count.name / count.onset)} ${percent(count.outside === 0 ? 1 : count.outsideRight / count.outside)}  ${(rests / notes).toFixed(3)}  ${key.padEnd(12)} ${columns.map((name) => percent(figures[name])).join(' ')}`,
  )
const total = (pick: (each: (typeof judged)[number]) => number) =>
  judged.reduce((sum, each) => sum + pick(each), 0)
const notes = total((each) => each.notes)
console.log(
  `${'all'.padEnd(48)}${String(notes).padStart(6)} ${percent(total(({ count }) => count.onset) / notes)} ${percent(total(({ count }) => count.value) / notes)} ${percent(total(({ count }) => count.staff) / total(({ count }) => count.onset))} ${percent(total(({ count }) => count.name) / total(({ count }) => count.onset))} ${percent(total(({ count }) => count.outsideRight) / total(({ count }) => count.outside))}  ${(total((each) => each.rests) / notes).toFixed(3)}  ${''.padEnd(12)} ${columns.map((name) => percent(total((each) => each.figures[name]) / judged.length)).join(' ')}`,
)

/** Names of all parts where the keys are told, as they are when a copyist knows them. */
const named = { all: 0, right: 0, outside: 0, rightOutside: 0 }
for (const score of knownScores) {
  const notes = notesOfKnownScore(score)
  const parts = score.parts.map((_, part) => notes.filter((note) => note.part === part))
  const keys = score.keys.map(({ at, fifths }) => ({
    tick: at * (TICKS_PER_QUARTER / 4),
    fifths,
    mode: 'major' as const,
  }))
  const places = parts.map((part) =>
    part.map(({ key, onsetQuarters, endQuarters }) => ({
      key,
      onsetTicks: Math.round(onsetQuarters * TICKS_PER_QUARTER),
      endTicks: Math.round(endQuarters * TICKS_PER_QUARTER),
    })),
  )
  for (const [part, names] of spellParts(places, keys).entries())
    for (const [index, name] of names.entries()) {
      const { pitch, key } = parts[part]![index]!
      const { fifths } = keys.findLast(({ tick }) => tick <= places[part]![index]!.onsetTicks)!
      const isRight = nameOf(pitchOf(key, name)) === nameOf(pitch)
      named.all++
      if (isRight) named.right++
      if (pitch.alter === signatureAlter(pitch.step, fifths)) continue
      named.outside++
      if (isRight) named.rightOutside++
    }
}
console.log(
  `names, keys told: ${percent(named.right / named.all).trim()} % of ${named.all}, ${percent(named.rightOutside / named.outside).trim()} % of ${named.outside} outside the key`,
)
