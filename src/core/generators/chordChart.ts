import { Note } from 'tonal'
import { isNoChord, typedChord } from '../notation/chordSymbols/chordSymbol'
import type { TypingProblem } from './generated'

export interface ChartChord {
  readonly symbol: string
  /** Pitch classes from 0 (C) of the chord's notes, the root first. */
  readonly pitchClasses: readonly number[]
  readonly rootClass: number
  /** Pitch class of the lowest note: another than the root after a slash. */
  readonly bassClass: number
}

/** A bar with its chords, each for an equal part of it; null: no chord. */
export type ChartBar = readonly (ChartChord | null)[]

export interface Chart {
  /** With the repeats written out. */
  readonly bars: readonly ChartBar[]
  readonly problems: readonly TypingProblem[]
}

const mostBars = 5000

/**
 * Reads a chord chart: bars divided by `|`, any number of chord symbols in a bar, `%` for the bar before again, `N.C.` for
 * none, `|:` … `:|` for a repeat (with `x3` after it for more often), `#` and what follows on a line for a remark.
 *
 * @example readChart('|: Am7 | D7 G7 :| x2')
 */
export function readChart(text: string): Chart {
  const problems: TypingProblem[] = []
  const bars: ChartBar[] = []
  let bar: (ChartChord | null)[] = []
  let isOpen = false
  let repeatFrom = 0
  let repeated: { readonly from: number; readonly to: number } | null = null
  const close = () => {
    if (bar.length > 0) bars.push(bar)
    bar = []
  }
  const say = (line: number, column: number, words: string) => problems.push({ line, column, text: words })
  for (const [lineIndex, whole] of text.split('\n').entries()) {
    const line = whole.replace(/(^|\s)#.*$/, (found) => ' '.repeat(found.length))
    for (const { 0: token, index } of line.matchAll(/\|:|:\||\|\]?|\|\||%|[^\s|:%]+|:/g)) {
      const [at, column] = [lineIndex + 1, index! + 1]
      if (bars.length > mostBars) {
        say(at, column, `The chart is longer than ${mostBars} bars with its repeats`)
        return { bars: bars.slice(0, mostBars), problems }
      }
      if (token === '|:') {
        close()
        repeatFrom = bars.length
        isOpen = true
      } else if (token === ':|') {
        close()
        repeated = { from: repeatFrom, to: bars.length }
        bars.push(...bars.slice(repeatFrom))
        repeatFrom = bars.length
        isOpen = false
      } else if (token.startsWith('|')) close()
      else if (token === ':') say(at, column, 'A “:” belongs to a bar line, as in |: or :|')
      else if (token === '%') {
        const before = bars.at(-1)
        if (!before && bar.length === 0) say(at, column, '“%” repeats the bar before, and there is none')
        else if (bar.length > 0) bar.push(bar.at(-1)!)
        else bar.push(...before!)
      } else if (/^x\d+$/.test(token) && repeated && bar.length === 0) {
        const times = Math.min(64, Number(token.slice(1)))
        const passage = bars.slice(repeated.from, repeated.to)
        for (let more = 2; more < times && bars.length <= mostBars; more++) bars.push(...passage)
        if (times < 2) bars.splice(repeated.to)
        repeatFrom = bars.length
        repeated = null
      } else if (isNoChord(token)) bar.push(null)
      else {
        const chord = readChord(token)
        if (chord) bar.push(chord)
        else say(at, column, `“${token.slice(0, 20)}” is not a chord symbol that is known here`)
      }
    }
  }
  close()
  if (isOpen) {
    const lines = text.split('\n')
    say(lines.length, lines.at(-1)!.length + 1, 'The repeat that begins with “|:” is not closed by “:|”')
  }
  return { bars, problems }
}

/** @returns null for an unknown symbol */
export function readChord(symbol: string): ChartChord | null {
  const typed = typedChord(symbol)
  if (!typed) return null
  const { bass, named } = typed
  const rootClass = Note.chroma(named.tonic!)
  return {
    symbol,
    pitchClasses: named.notes.map((note) => Note.chroma(note)),
    rootClass,
    bassClass: bass === undefined ? rootClass : Note.chroma(bass),
  }
}
