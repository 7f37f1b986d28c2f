import { parseKeyName } from '../event/note'
import { floorSentence, heavyFloors, type Ledger, sumLedgers } from '../ledger/ledger'
import type { ScoreHeadings } from '../notation/headings'
import type { Clef, Score } from '../notation/score'
import { defaultScoreSettings, type ScoreSettings, scoreSettingsSchema } from '../notation/scoreSettings'
import { contextOf } from '../project/context'
import { projectEndTicks } from '../project/create'
import { handPairs, joinHands } from '../project/handPairs'
import { headingsOf, scoreOf } from '../project/onPage'
import type { Project } from '../project/schema'
import { ImportError } from './midiToProject'
import { type OpeningLimits, openFile } from './openFile'

/** An option that cannot be used: says which and why. */
export class OptionError extends Error {
  override name = 'OptionError'
}

/** Names of the options of the command "score" and of the route handler. */
export const scoreOptionNames = [
  'join-hands',
  'split',
  'grid',
  'tuplets',
  'swing',
  'touch',
  'pitch',
  'clefs',
  'dynamics',
  'ornaments',
  'slurs',
  'pedal',
  'pedal-lengths',
  'beams-over-rests',
  'repeats',
  'words',
  'min-velocity',
  'min-length-ms',
  'chord-window-ms',
] as const

/** How a file is to be written. */
export interface ScoreRequest {
  readonly settings: ScoreSettings
  /** Tracks that are the hands of one player by their names are one part. */
  readonly joinsHands: boolean
}

/**
 * Options of the command "score" and of the route handler, as text, by their names without dashes.
 *
 * @throws OptionError
 */
export function parseScoreOptions(options: Readonly<Record<string, string | undefined>>): ScoreRequest {
  const number = (name: string, fallback: number): number => {
    const text = options[name]
    if (text === undefined) return fallback
    if (!/^\d+(\.\d+)?$/.test(text)) throw new OptionError(`--${name} takes a number, not "${text}"`)
    return Number(text)
  }
  let splitKey = defaultScoreSettings.splitKey
  const followsHands = options.split === 'hands'
  if (options.split !== undefined && !followsHands) {
    const parsed = parseKeyName(options.split)
    if (parsed === undefined)
      throw new OptionError(
        `--split takes hands, a note name such as C4 or a key number, not "${options.split}"`,
      )
    splitKey = parsed
  }
  const isOn = (name: string, usual: 'on' | 'off' = 'on'): boolean => {
    const value = options[name] ?? usual
    if (value !== 'on' && value !== 'off') throw new OptionError(`--${name} takes on or off, not "${value}"`)
    return value === 'on'
  }
  if (![undefined, 'written', 'concert'].includes(options.pitch))
    throw new OptionError(`--pitch takes written or concert, not "${options.pitch}"`)
  const parsed = scoreSettingsSchema.safeParse({
    ...defaultScoreSettings,
    splitKey,
    followsHands,
    readsSwing: isOn('swing'),
    tuplets: isOn('tuplets'),
    readsTouch: isOn('touch'),
    isConcertPitch: options.pitch === 'concert',
    readsClefs: isOn('clefs'),
    readsDynamics: isOn('dynamics'),
    readsOrnaments: isOn('ornaments'),
    readsSlurs: isOn('slurs'),
    readsPedal: isOn('pedal'),
    holdsThroughPedal: isOn('pedal-lengths', 'off'),
    beamsOverRests: isOn('beams-over-rests', 'off'),
    foldsRepeats: isOn('repeats', 'off'),
    writesWords: isOn('words'),
    smallestValue: number('grid', defaultScoreSettings.smallestValue),
    minVelocity: number('min-velocity', defaultScoreSettings.minVelocity),
    minLengthMs: number('min-length-ms', defaultScoreSettings.minLengthMs),
    chordWindowMs: number('chord-window-ms', defaultScoreSettings.chordWindowMs),
  })
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!
    const names: Record<string, string> = {
      smallestValue: '--grid takes 4, 8, 16 or 32',
      minVelocity: '--min-velocity takes a whole number from 0 to 127',
      minLengthMs: '--min-length-ms takes a number from 0 to 2000',
      chordWindowMs: '--chord-window-ms takes a number from 0 to 200',
    }
    throw new OptionError(names[String(issue.path[0])] ?? issue.message)
  }
  return { settings: parsed.data, joinsHands: isOn('join-hands', 'off') }
}

export interface ScoreReport extends Ledger {
  readonly parts: {
    readonly name: string
    readonly staves: number
    readonly clefs: readonly Clef[]
    readonly notes: number
    /** How late its player is throughout (early when negative), in whole milliseconds; it is taken off. */
    readonly lateMs: number
  }[]
}

/** Bars of a score; a piece of that many in quick four-four lasts eleven hours. */
const mostBars = 20_000
/** Bars of all parts together: each is at least a rest in the file. */
const mostPartBars = 400_000

/**
 * A file of any kind that can be opened as a score, with the account of its notes. A performance is read as it is asked for; music that is
 * written stays as it is.
 *
 * @throws FileProblem when the file cannot be read, or there is nothing to write or too much
 */
export function scoreFromFile(
  bytes: Uint8Array,
  title: string,
  { settings, joinsHands }: ScoreRequest,
  limits: Partial<OpeningLimits> = {},
): {
  project: Project
  score: Score
  headings: ScoreHeadings
  report: ScoreReport
  warnings: string[]
} {
  const { project, warnings } = openFile(bytes, { id: 'from-file', name: title, nowMs: 0 }, limits)
  checkSize(project)
  const whole = joinsHands ? handPairs(project).reduce(joinHands, project) : project
  const score = scoreOf({ ...whole, scoreSettings: settings })
  const headings = headingsOf(whole)
  return {
    project: whole,
    score,
    headings,
    report: reportOf(score, headings),
    warnings: [...warnings, ...floorWarnings(score, headings, settings)],
  }
}

/** @throws ImportError where a score of this piece would be larger than anybody reads */
function checkSize(project: Project): void {
  const number = (value: number) => value.toLocaleString('en')
  const bars = contextOf(project).meterMap.measureAt(Math.max(0, projectEndTicks(project) - 1)).index + 1
  const parts = project.tracks.length
  if (bars > mostBars || bars * parts > mostPartBars)
    throw new ImportError(
      `The last note lies in bar ${number(bars)}; scores of up to ${number(Math.min(mostBars, Math.floor(mostPartBars / parts)))} bars are written with ${parts} ${parts === 1 ? 'part' : 'parts'}`,
    )
}

/** Sentences about floors that take more than slips. */
function floorWarnings(
  score: Score,
  headings: ScoreHeadings,
  { minVelocity, minLengthMs }: ScoreSettings,
): string[] {
  return score.parts.flatMap(({ ledger }, index) =>
    heavyFloors(ledger).map(
      (floor) =>
        `${floorSentence(headings.parts[index]!.name, ledger.captured, floor, minVelocity, minLengthMs)}.`,
    ),
  )
}

export function reportOf(score: Score, headings: ScoreHeadings): ScoreReport {
  return {
    ...sumLedgers(score.parts.map((part) => part.ledger)),
    parts: score.parts.map((part, index) => ({
      name: headings.parts[index]!.name,
      staves: part.clefs.length,
      clefs: part.clefs,
      notes: part.ledger.written,
      lateMs: Math.round(part.lateMs),
    })),
  }
}
