import type { ControllerEvent, Note } from '../event/note'
import { abbreviation } from '../notation/abbreviations'
import type { Amendment } from '../notation/amendments/amendment'
import { standingIn } from '../notation/heads'
import { manuscriptOf } from '../notation/manuscript/manuscriptOf'
import { isUnpitched, type Score, type ScorePart } from '../notation/score'
import { soundWithin } from '../notation/soundOfScore'
import { tempoMarksOf } from '../notation/tempoMarks'
import { nameOfTransposition } from '../notation/transposition'
import { type HeardRepeat, heardRepeats } from '../notation/writtenMusic/heardRepeats'
import { performedScore } from '../notation/writtenMusic/performedScore'
import type { WrittenMusic } from '../notation/writtenMusic/writtenMusic'
import { emptyProject, newClip, newTrack } from '../project/create'
import { mostKeyChanges, mostSections, type Project, type Words } from '../project/schema'
import { firstWords, newWords } from '../project/words'
import { boundedName } from '../text/bounded'
import { lastTick } from '../time/units'
import { ImportError, mostImportedParts } from './midiToProject'

/**
 * Opens music of a file of notation as a project: tracks that play it, and pages that are written as the file has it.
 *
 * @throws ImportError when nothing in it sounds, or there is more than can be opened
 */
export function scoreToProject(
  music: WrittenMusic,
  identity: { readonly id: string; readonly name: string; readonly nowMs: number },
): { readonly project: Project; readonly warnings: readonly string[] } {
  if (music.parts.length > mostImportedParts)
    throw new ImportError(
      `The file has ${music.parts.length.toLocaleString('en')} parts; up to ${mostImportedParts} can be opened at once`,
    )
  const performed = performedScore(music, 1)
  const { score } = performed
  const last = score.measures.at(-1)
  if (!last) throw new ImportError('The file can be read, but there is no bar in it')
  if (last.startTicks + last.lengthTicks > lastTick)
    throw new ImportError(
      `Played out, the music has ${score.measures.length.toLocaleString('en')} bars, longer than can be kept`,
    )
  const { sounds, within } = soundWithin(score)
  const all = [...sounds.values()]
  if (all.every((notes) => notes.length === 0))
    throw new ImportError('The file can be read, but there is no note in it')
  const nextSerial = all.reduce(
    (next, notes) => notes.reduce((most, { id }) => Math.max(most, id + 1), next),
    performed.nextId,
  )
  const { headings } = music
  const flows = music.bars.map(({ flow }) => flow)
  let project: Project = {
    ...emptyProject(identity.id, boundedName(headings.title || identity.name), identity.nowMs),
    subtitle: headings.subtitle,
    composer: headings.composer,
    arranger: headings.arranger,
    rights: headings.rights,
    tempos: performed.tempos.map((tempo) => ({ ...tempo })),
    meters: performed.meters as Project['meters'],
    keys: score.keys.slice(0, mostKeyChanges).map((key) => ({ ...key })),
    sections: score.sections
      .slice(0, mostSections)
      .map(({ tick, name }) => ({ tick, name: boundedName(name) })),
    amendments: barAmendments(score, heardRepeats(flows, performed.order)),
    nextSerial,
  }
  const words: Words[] = score.chordSymbols.map(({ tick, text }) => newWords('chord', tick, null, text))
  const printed = new Set(tempoMarksOf(performed.tempos).map(({ tick, print }) => `${tick} ${print}`))
  for (const [index, part] of score.parts.entries()) {
    const added = addPart(project, score, index, music, sounds.get(part.id)!, within, performed.velocities)
    project = added.project
    for (const { tick, text } of part.texts)
      if (!printed.has(`${tick} ${text}`)) words.push(newWords('text', tick, added.trackId, text))
    words.push(...sungWords(part, score, added.trackId))
  }
  const kept = firstWords(words)
  const warnings: string[] = []
  if (kept.length < words.length)
    warnings.push(
      `Of ${words.length.toLocaleString('en')} syllables and texts the first ${kept.length.toLocaleString('en')} were taken over.`,
    )
  if (music.tempos.length === 0)
    warnings.push('The file says no tempo: it is played at 120 quarters a minute.')
  for (const { heading, transposition } of music.parts)
    if (nameOfTransposition(transposition) === null)
      warnings.push(
        `${heading.name} is written in a transposition that is not known here: it is written as it sounds.`,
      )
  if (flows.some(({ jump }) => jump !== null))
    warnings.push('What da capo and dal segno lead back to is written out as it is played.')
  return { project: { ...project, words: kept }, warnings }
}

function barAmendments({ barLines, breaks, measures }: Score, repeats: readonly HeardRepeat[]): Amendment[] {
  const tickOf = (bar: number) => measures[bar]!.startTicks
  return [
    ...repeats.flatMap(({ first, last, times, endings }): Amendment[] => [
      {
        aspect: 'repeat',
        tick: tickOf(first),
        lastBarTick: tickOf(last),
        timesThere: times,
        isFromFile: true,
      },
      ...(endings
        ? ([1, 2] as const).map((time): Amendment => {
            const [from, to] = time === 1 ? endings.one : endings.two
            return { aspect: 'ending', tick: tickOf(from), lastBarTick: tickOf(to), time, isFromFile: true }
          })
        : []),
    ]),
    ...barLines.map(
      ({ bar, style }): Amendment => ({ aspect: 'barLine', tick: tickOf(bar), style, isFromFile: true }),
    ),
    ...breaks.map(({ bar, of }): Amendment => ({ aspect: 'break', tick: tickOf(bar), of, isFromFile: true })),
  ]
}

function addPart(
  project: Project,
  score: Score,
  index: number,
  music: WrittenMusic,
  sounding: readonly Note[],
  within: ReturnType<typeof soundWithin>['within'],
  velocities: ReadonlyMap<number, number>,
): { readonly project: Project; readonly trackId: string } {
  const part = score.parts[index]!
  const { heading } = music.parts[index]!
  const lines = linesOf(score, index, within)
  const notes = sounding.map((note, eventIndex): Note => {
    const line = lines.get(note.id)
    const velocity = velocities.get(line?.main ?? note.id) ?? note.velocity
    return {
      ...note,
      velocity,
      channel: heading.channel,
      origin: { kind: 'imported', eventIndex },
      ...(line && { voice: line.voice }),
      ...(line && part.clefs.length > 1 && { staff: line.staff }),
    }
  })
  const manuscript = manuscriptOf(score, index, notes, ofNotes(within, notes))
  const serial = project.nextSerial
  const clip = newClip(`clip-${serial}`, 'From the file', notes, {
    controllers: pedalsOf(part, heading.channel),
    ...(manuscript && { manuscript }),
  })
  const { project: next, track } = newTrack(
    { ...project, nextSerial: serial + 1 },
    {
      name: heading.name,
      shortName: heading.shortName === abbreviation(heading.name) ? '' : heading.shortName,
      instrument: isUnpitched(part) ? { kind: 'drums' } : heading.instrument,
      channel: heading.channel,
      volume: heading.volume,
      pan: heading.pan,
      bracket: heading.bracket,
      keyNames: heading.keyNames.map((each) => ({ ...each })),
      writtenAs: nameOfTransposition(part.transposition) ?? 'as it sounds',
      isArmed: false,
      clips: notes.length > 0 ? [clip] : [],
    },
  )
  return { project: next, trackId: track.id }
}

/** What sounds within the notes of one part. */
function ofNotes(within: ReturnType<typeof soundWithin>['within'], notes: readonly Note[]) {
  const own = new Set(notes.map(({ id }) => id))
  return new Map([...within].filter(([id]) => own.has(id)))
}

/** Voice and staff of each note, and of what sounds within it. */
function linesOf(score: Score, partIndex: number, within: ReturnType<typeof soundWithin>['within']) {
  const lines = new Map<number, { voice: number; staff: 1 | 2; main: number }>()
  for (const head of standingIn(score).headsOf(partIndex)) {
    const main = head.note.noteIds[0]!
    const line = { voice: head.voice, staff: (head.staff === 2 ? 2 : 1) as 1 | 2, main }
    for (const id of [main, ...(within.get(main) ?? [])]) lines.set(id, line)
  }
  return lines
}

const damper = 64

function pedalsOf({ pedals }: ScorePart, channel: number): ControllerEvent[] {
  const press = (tick: number, value: number): ControllerEvent => ({
    tick,
    channel,
    kind: 'controller',
    number: damper,
    value,
  })
  return pedals.flatMap(({ startTicks, endTicks }) => [press(startTicks, 127), press(endTicks, 0)])
}

/** Syllables as they are kept: with the hyphen or the space that tells whether a word goes on. */
function sungWords(part: ScorePart, { measures }: Score, trackId: string): Words[] {
  return part.measures.flatMap((voices, bar) =>
    voices.flatMap(({ elements }) =>
      elements.flatMap((element): Words[] => {
        if (element.kind === 'rest' || !element.lyric) return []
        const { text, syllabic } = element.lyric
        const isOpen = syllabic === 'begin' || syllabic === 'middle'
        return [
          newWords(
            'lyric',
            measures[bar]!.startTicks + element.startTicks,
            trackId,
            isOpen ? `${text}-` : `${text} `,
          ),
        ]
      }),
    ),
  )
}
