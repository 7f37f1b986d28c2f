import { lastTick, TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { TypingProblem } from '../generated'
import {
  keyOfName,
  mostProblems,
  type TypedMusic,
  type TypedPart,
  tooLong,
  type WrittenNotes,
} from './typedPart'

const whole = TICKS_PER_QUARTER * 4

/**
 * Reads parts typed as lists of pitches and lengths.
 *
 * A line `part NAME, channel 2, program 73, gate 80, offset 12` begins a part (all but the name may be left out; the program
 * counts from 1 as General MIDI does). Then come pitches (`C4`, `F#5`, `60`), chords (`C4+E4+G4`) and rests (`r`), each
 * followed by its length as a part of a whole note (`1/4`, dotted `1/4.`, triplet `1/8t`, joined `1/2+1/8`) or by none for
 * the same length as before. `v80` sets the force from there on; `|` may divide bars; `#` and what follows is a remark.
 */
export function readLists(text: string): TypedMusic {
  const problems: TypingProblem[] = []
  const parts: { head: Omit<TypedPart, 'notes'>; notes: WrittenNotes[] }[] = []
  let at: Ticks = 0
  let length: Ticks = whole / 4
  let velocity = 80
  let waiting: { keys: readonly number[] } | null = null
  const current = () => {
    if (parts.length === 0) parts.push({ head: plainHead('Part 1'), notes: [] })
    return parts.at(-1)!
  }
  const write = () => {
    if (!waiting) return
    const { keys } = waiting
    if (at <= lastTick) {
      if (keys.length > 0) current().notes.push({ onsetTicks: at, durationTicks: length, keys, velocity })
    } else if (!isPastTheEnd) {
      isPastTheEnd = true
      problems.push({ line: lineNumber, column: 1, text: tooLong })
    }
    at += length
    waiting = null
  }
  // A piece says the same few words over and over.
  const lengths = new Map<string, Ticks | null>()
  const pitches = new Map<string, readonly number[]>()
  const words = /\S+/g
  let lineNumber = 0
  let isPastTheEnd = false
  for (const whole of text.split('\n')) {
    lineNumber++
    if (problems.length >= mostProblems) break
    const line = whole.includes('#') ? whole.replace(/(^|\s)#.*$/, '') : whole
    const say = (column: number, words: string) => problems.push({ line: lineNumber, column, text: words })
    if (/^\s*part\b/i.test(line)) {
      write()
      parts.push({ head: readHead(line, parts.length + 1, say), notes: [] })
      at = 0
      isPastTheEnd = false
      length = TICKS_PER_QUARTER
      velocity = 80
      continue
    }
    words.lastIndex = 0
    for (let found = words.exec(line); found; found = words.exec(line)) {
      const token = found[0]
      if (token === '|') continue
      const column = found.index + 1
      if (token.includes('/')) {
        let ticks = lengths.get(token)
        if (ticks === undefined) {
          ticks = lengthOf(token)
          lengths.set(token, ticks)
        }
        if (ticks === null)
          say(column, `“${token.slice(0, 20)}” is not a length: it should be like 1/4, 1/8., 1/8t or 1/2+1/8`)
        else if (!waiting) say(column, `The length ${token} stands without a note before it`)
        else {
          length = ticks
          write()
        }
        continue
      }
      write()
      const known = pitches.get(token)
      if (known) {
        waiting = { keys: known }
        continue
      }
      const force = /^v(\d{1,3})$/i.exec(token)
      if (force) {
        const value = Number(force[1])
        if (value < 1 || value > 127) say(column, `The force ${value} is not between 1 and 127`)
        else velocity = value
        continue
      }
      if (/^r$/i.test(token)) {
        waiting = { keys: [] }
        continue
      }
      const keys = token
        .split('+')
        .map((name) => (/^\d{1,3}$/.test(name) && Number(name) <= 127 ? Number(name) : keyOfName(name)))
      const wrong = keys.indexOf(null)
      if (wrong >= 0)
        say(
          column,
          `“${token.split('+')[wrong]!.slice(0, 20)}” is not a pitch: it should be like C4, F#5 or 60`,
        )
      else {
        pitches.set(token, keys as number[])
        waiting = { keys: keys as number[] }
      }
    }
  }
  write()
  return { parts: parts.map(({ head, notes }) => ({ ...head, notes })), problems }
}

function plainHead(name: string): Omit<TypedPart, 'notes'> {
  return { name, channel: null, program: null, gate: null, offsetMs: 0 }
}

const options: Readonly<
  Record<string, readonly [field: 'channel' | 'program' | 'gate' | 'offsetMs', min: number, max: number]>
> = {
  channel: ['channel', 1, 16],
  program: ['program', 1, 128],
  gate: ['gate', 1, 100],
  offset: ['offsetMs', -2000, 2000],
}

function readHead(
  line: string,
  number: number,
  say: (column: number, words: string) => void,
): Omit<TypedPart, 'notes'> {
  const [name = '', ...rest] = line.replace(/^\s*part\s*/i, '').split(',')
  const head: { -readonly [Key in keyof Omit<TypedPart, 'notes'>]: Omit<TypedPart, 'notes'>[Key] } =
    plainHead(name.trim() || `Part ${number}`)
  for (const option of rest) {
    const column = line.indexOf(option) + 1 + (option.length - option.trimStart().length)
    const [, word, value] = /^\s*([a-z]+)\s+(-?\d+(?:\.\d+)?)\s*$/i.exec(option) ?? []
    const known = word ? options[word.toLowerCase()] : undefined
    if (!known)
      say(
        column,
        `“${option.trim().slice(0, 30)}” should be like channel 2, program 73, gate 80 or offset 12`,
      )
    else {
      const [field, min, max] = known
      const given = Number(value)
      if (given < min || given > max) say(column, `The ${word} ${given} is not between ${min} and ${max}`)
      else head[field] = field === 'program' ? given - 1 : given
    }
  }
  return head
}

function lengthOf(token: string): Ticks | null {
  let ticks = 0
  for (const piece of token.split('+')) {
    const [, above, below, dots, triplet] = /^(\d{1,3})\/(\d{1,3})(\.{0,2})(t?)$/.exec(piece) ?? []
    if (!above || Number(below) === 0 || Number(above) === 0) return null
    const plain = (whole * Number(above)) / Number(below)
    const dotted = plain * (2 - 0.5 ** dots!.length)
    ticks += triplet ? (dotted * 2) / 3 : dotted
  }
  return Math.max(1, Math.round(ticks))
}
