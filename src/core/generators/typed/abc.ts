import { isCompound } from '../../time/meterMap'
import { lastTick, TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import type { TypingProblem } from '../generated'
import { mostProblems, type TypedMusic, type TypedPart, tooLong, type WrittenNotes } from './typedPart'

const whole = TICKS_PER_QUARTER * 4
const mostItems = 400_000

/** One thing in a voice, in the order it was written. */
type Item =
  | {
      readonly kind: 'notes'
      keys: readonly number[]
      ticks: Ticks
      isTied: boolean
      readonly isRest: boolean
    }
  | { readonly kind: 'bar'; readonly ends: boolean; readonly begins: boolean }
  | { readonly kind: 'ending'; readonly numbers: readonly number[] }

interface Voice {
  readonly id: string
  name: string
  channel: number | null
  program: number | null
  gate: number | null
  offsetMs: number
  readonly items: Item[]
  readonly accidentals: Map<string, number>
  tuplet: { readonly factor: number; left: number } | null
  /** What the next note is stretched by, after a broken rhythm. */
  broken: number
  octaves: number
}

/** Sharps (flats below zero) of the major key on each tonic. */
const majorFifths: Readonly<Record<string, number>> = { F: -1, C: 0, G: 1, D: 2, A: 3, E: 4, B: 5 }
const modeFifths: Readonly<Record<string, number>> = {
  maj: 0,
  ion: 0,
  lyd: 1,
  mix: -1,
  dor: -2,
  min: -3,
  m: -3,
  aeo: -3,
  phr: -4,
  loc: -5,
}
const sharpOrder = 'FCGDAEB'

/**
 * Reads a tune in ABC notation (the abc music standard 2.1, abcnotation.com/wiki/abc:standard): notes, accidentals with the
 * key and the bar, octaves, lengths, rests, chords, ties, broken rhythm, tuplets, repeats with numbered endings, voices,
 * changes of key, meter and unit on the way. Ornaments, slurs, grace notes, words and chord symbols are passed over. The
 * first tune of a file is read. `V:` may carry `channel=`, `program=` (from 1), `gate=` and `offset=` besides `name=`.
 */
export function readAbc(text: string): TypedMusic {
  const problems: TypingProblem[] = []
  const voices = new Map<string, Voice>()
  let unit = 0
  let meter = 1
  let isCompoundMeter = false
  let key: Readonly<Record<string, number>> = {}
  let isInBody = false
  let hasTune = false
  let items = 0
  let voice: Voice | null = null
  const voiceOf = (id: string): Voice => {
    let known = voices.get(id)
    if (!known) {
      known = {
        id,
        name: id === '1' ? 'Part 1' : /^\d+$/.test(id) ? `Part ${id}` : id,
        channel: null,
        program: null,
        gate: null,
        offsetMs: 0,
        items: [],
        accidentals: new Map(),
        tuplet: null,
        broken: 1,
        octaves: 0,
      }
      voices.set(id, known)
    }
    return known
  }
  const unitTicks = () => (unit > 0 ? unit : meter < 0.75 ? whole / 16 : whole / 8)

  const field = (letter: string, value: string, say: (words: string) => void) => {
    switch (letter) {
      case 'L': {
        const [, above, below] = /^(\d+)\/(\d+)$/.exec(value.trim()) ?? []
        if (!above || Number(below) === 0) say(`“L:${value.trim()}” should be like L:1/8`)
        else unit = (whole * Number(above)) / Number(below)
        break
      }
      case 'M': {
        const [, above, below] = /^(\d+)\/(\d+)/.exec(value.trim()) ?? []
        if (above && Number(below) > 0) {
          meter = Number(above) / Number(below)
          isCompoundMeter = isCompound({ numerator: Number(above), denominator: Number(below) })
        } else if (/^(C\|?|none)?$/.test(value.trim())) meter = 1
        else say(`“M:${value.trim()}” should be like M:3/4`)
        break
      }
      case 'K': {
        const read = readKey(value)
        if (read === null)
          say(`“K:${value.trim().slice(0, 20)}” is not a key: it should be like K:G or K:D dor`)
        else key = read
        break
      }
      case 'V': {
        const [, id, rest] = /^\s*(\S+)\s*(.*)$/.exec(value) ?? []
        if (!id) {
          say('“V:” should name a voice')
          break
        }
        voice = voiceOf(id)
        for (const { 1: name, 2: quoted, 3: plain } of rest!.matchAll(/(\w+)=(?:"([^"]*)"|(\S+))/g)) {
          const given = quoted ?? plain ?? ''
          const number = Number(given)
          if ((name === 'name' || name === 'nm') && given) voice.name = given
          else if (name === 'channel' && number >= 1 && number <= 16) voice.channel = Math.round(number)
          else if (name === 'program' && number >= 1 && number <= 128) voice.program = Math.round(number) - 1
          else if (name === 'gate' && number >= 1 && number <= 100) voice.gate = number
          else if (name === 'offset' && Math.abs(number) <= 2000) voice.offsetMs = number
          else if (name === 'octave') voice.octaves = Math.round(number)
          else if (['channel', 'program', 'gate', 'offset'].includes(name!))
            say(`“${name}=${given}” is out of range`)
        }
      }
    }
  }

  const lines = text.split('\n')
  for (const [lineIndex, raw] of lines.entries()) {
    if (problems.length >= mostProblems || items > mostItems) break
    const line = raw.replace(/(?<!\\)%.*$/, '').replace(/\r$/, '')
    const say = (column: number, words: string) => problems.push({ line: lineIndex + 1, column, text: words })
    const header = /^([A-Za-z+]):(.*)$/.exec(line)
    if (header && !line.startsWith('|')) {
      if (header[1] === 'X') {
        // A second tune begins: the first one is what is read.
        if (hasTune && isInBody) break
        hasTune = true
      }
      field(header[1]!, header[2]!, (words) => say(1, words))
      if (header[1] === 'K') isInBody = true
      continue
    }
    if (!isInBody) {
      if (line.trim() && !line.startsWith('%')) {
        say(1, 'Notes come after the field K: that names the key')
        isInBody = true
      } else continue
    }
    readLine(line, say)
  }
  if (items > mostItems)
    problems.push({
      line: lines.length,
      column: 1,
      text: `More than ${mostItems.toLocaleString('en')} notes and bars`,
    })

  function readLine(line: string, say: (column: number, words: string) => void): void {
    voice ??= voiceOf('1')
    const scanner =
      /!\w[^!]*!|\{[^}]*\}|"[^"]*"|\[[A-Za-z]:[^\]]*\]|\[\d[\d,-]*|\((\d)(?::(\d*))?(?::(\d*))?|:*\|+[\]:]*\d?[\d,]*|\|?:+|\[\||(?:\^\^|\^|__|_|=)?[A-Ga-g][,']*|\[|\]|[zxZXy]|[<>]+|-|[~.HLMOPSTuv()\\`*$]|\s+|./gu
    let chord: { keys: number[]; ticks: Ticks | null; readonly column: number } | null = null
    for (let found = scanner.exec(line); found; found = scanner.exec(line)) {
      if (problems.length >= mostProblems) return
      const token = found[0]
      const column = found.index + 1
      const lengthHere = () => {
        const [length] = /^(?:\d+)?(?:\/\d*)*/.exec(line.slice(scanner.lastIndex))!
        scanner.lastIndex += length.length
        return lengthOf(length)
      }
      const now: Voice = voice!
      if (/^\s+$/.test(token) || /^[!{"~.HLMOPSTuv\\`*$]/.test(token)) continue
      if (/^\[[A-Za-z]:/.test(token)) field(token[1]!, token.slice(3, -1), (words) => say(column, words))
      else if (/^\[\d/.test(token)) now.items.push({ kind: 'ending', numbers: endings(token.slice(1)) })
      else if (found[1]) {
        const p = Number(found[1])
        const usual = { 2: 3, 3: 2, 4: 3, 6: 2, 8: 3 }[p] ?? (isCompoundMeter ? 3 : 2)
        now.tuplet = {
          factor: (found[2] ? Number(found[2]) : usual) / p,
          left: found[3] ? Number(found[3]) : p,
        }
      } else if (token === '(' || token === ')') continue
      else if (/^(?:\[\||[|:])/.test(token)) {
        const ending = /\d[\d,]*$/.exec(token)
        const sign = token.replace(/[\d,]+$/, '')
        now.items.push({
          kind: 'bar',
          ends: sign.startsWith(':'),
          begins: sign.length > 1 && sign.endsWith(':'),
        })
        if (ending) now.items.push({ kind: 'ending', numbers: endings(ending[0]) })
        now.accidentals.clear()
        items++
      } else if (token === '[') chord = { keys: [], ticks: null, column }
      else if (token === ']') {
        if (!chord) say(column, '“]” closes no chord')
        else
          add(now, chord.keys, (chord.ticks ?? unitTicks()) * lengthHere(), false, (words) =>
            say(column, words),
          )
        chord = null
      } else if (/^[zxZXy]$/.test(token)) {
        const length = lengthHere()
        if (token === 'y') continue
        add(now, [], /[ZX]/.test(token) ? whole * meter * length : unitTicks() * length, true, (words) =>
          say(column, words),
        )
      } else if (/^[<>]+$/.test(token)) {
        const last = now.items.at(-1)
        const part = 1 / 2 ** token.length
        if (last?.kind !== 'notes') say(column, `“${token}” needs a note before it`)
        else {
          last.ticks = Math.max(1, Math.round(last.ticks * (token[0] === '>' ? 2 - part : part)))
          now.broken = token[0] === '>' ? part : 2 - part
        }
      } else if (token === '-') {
        const last = now.items.at(-1)
        if (last?.kind === 'notes') last.isTied = true
      } else if (/[A-Ga-g]/.test(token)) {
        const number = pitch(now, token)
        const length = lengthHere()
        if (number < 0 || number > 127)
          say(column, `“${token}” is too ${number < 0 ? 'low' : 'high'} for a MIDI key`)
        else if (chord) {
          chord.keys.push(number)
          chord.ticks ??= unitTicks() * length
        } else add(now, [number], unitTicks() * length, false, (words) => say(column, words))
      } else say(column, `“${token}” means nothing here`)
    }
    if (chord) say(chord.column, 'The chord that begins with “[” is not closed by “]”')
  }

  function add(
    into: Voice,
    keys: readonly number[],
    ticks: Ticks,
    isRest: boolean,
    say: (words: string) => void,
  ): void {
    let length = ticks * into.broken
    into.broken = 1
    if (into.tuplet) {
      length *= into.tuplet.factor
      if (--into.tuplet.left <= 0) into.tuplet = null
    }
    const rounded = Math.round(length)
    if (rounded < 1 && !isRest) {
      say('This note is too short to be played')
      return
    }
    if (!(rounded <= lastTick)) {
      say(tooLong)
      return
    }
    items++
    into.items.push({ kind: 'notes', keys, ticks: rounded, isTied: false, isRest })
  }

  function pitch(into: Voice, token: string): number {
    const [, sign, letter, marks] = /^(\^\^|\^|__|_|=)?([A-Ga-g])([,']*)$/.exec(token)!
    const upper = letter!.toUpperCase()
    const octave =
      (letter === upper ? 0 : 1) + marks!.split("'").length - marks!.split(',').length + into.octaves
    const shift = sign
      ? { '^^': 2, '^': 1, __: -2, _: -1, '=': 0 }[sign]!
      : (into.accidentals.get(`${upper}${octave}`) ?? key[upper] ?? 0)
    if (sign) into.accidentals.set(`${upper}${octave}`, shift)
    return 60 + 12 * octave + { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 }[upper]! + shift
  }

  return {
    parts: [...voices.values()]
      .filter((each) => each.items.length > 0)
      .map((voice) => playThrough(voice, (text) => problems.push({ line: lines.length, column: 1, text }))),
    problems,
  }
}

/**
 * Reads a voice as it is played: repeats written out, ties joined.
 *
 * @param say told once when the voice with its repeats is longer than can be kept
 */
function playThrough(voice: Voice, say: (problem: string) => void): TypedPart {
  const notes: WrittenNotes[] = []
  let at: Ticks = 0
  let tied = new Map<number, number>()
  let repeatFrom = 0
  let pass = 1
  let turned = -1
  const { items } = voice
  for (let index = 0; index < items.length; index++) {
    if (notes.length >= mostItems || at > lastTick) {
      say(`${voice.name}: ${at > lastTick ? tooLong : `More than ${mostItems.toLocaleString('en')} notes`}`)
      break
    }
    const item = items[index]!
    if (item.kind === 'ending') {
      if (item.numbers.includes(pass)) continue
      // Not this time: on to the next ending, or past the repeat sign that ends this one.
      while (index + 1 < items.length) {
        const next = items[index + 1]!
        if (next.kind === 'ending') break
        index++
        if (next.kind === 'bar' && next.ends) {
          if (items[index + 1]?.kind !== 'ending') pass = 1
          break
        }
      }
      continue
    }
    if (item.kind === 'bar') {
      if (item.ends && turned < index) {
        turned = index
        pass++
        index = repeatFrom - 1
        continue
      }
      if (item.begins || item.ends) {
        repeatFrom = index + 1
        if (items[index + 1]?.kind !== 'ending') pass = 1
      }
      continue
    }
    const stillTied = new Map<number, number>()
    const struck: number[] = []
    for (const key of item.keys) {
      const from = tied.get(key)
      if (from === undefined) struck.push(key)
      else {
        const known = notes[from]!
        notes[from] = { ...known, durationTicks: at + item.ticks - known.onsetTicks }
        if (item.isTied) stillTied.set(key, from)
      }
    }
    // Keys that are tied on may go separate ways, so each is a note of its own there.
    const groups = item.isTied ? struck.map((key) => [key]) : struck.length > 0 ? [struck] : []
    for (const keys of groups) {
      if (item.isTied) stillTied.set(keys[0]!, notes.length)
      notes.push({ onsetTicks: at, durationTicks: item.ticks, keys, velocity: 80 })
    }
    tied = stillTied
    at += item.ticks
  }
  const { name, channel, program, gate, offsetMs } = voice
  return { name, channel, program, gate, offsetMs, notes }
}

function endings(text: string): number[] {
  return text.split(',').flatMap((piece) => {
    const [from, to = from] = piece.split('-').map(Number)
    return from
      ? Array.from({ length: Math.max(1, Math.min(16, to! - from + 1)) }, (_, index) => from + index)
      : []
  })
}

/** `3/2`, `/`, `//`, `/4`, `2`; 1 for none. */
function lengthOf(text: string): number {
  const [above, ...below] = text.split('/')
  let value = above ? Number(above) : 1
  for (const piece of below) value /= piece ? Math.max(1, Number(piece)) : 2
  return value
}

/** @returns accidentals by letter; null for what is no key */
function readKey(value: string): Readonly<Record<string, number>> | null {
  const text = value.trim()
  if (text === '' || /^none\b/i.test(text)) return {}
  const [, tonic, sign, mode] = /^([A-G])([#b]?)\s*([A-Za-z]*)/.exec(text) ?? []
  if (!tonic) return /^(clef|treble|bass|H[Pp])/.test(text) ? {} : null
  const known = mode === 'm' ? 'm' : (mode ?? '').toLowerCase().slice(0, 3)
  const isMode = known === '' || known in modeFifths
  const fifths =
    majorFifths[tonic]! + (sign === '#' ? 7 : sign === 'b' ? -7 : 0) + (isMode ? (modeFifths[known] ?? 0) : 0)
  const accidentals: Record<string, number> = {}
  for (let index = 0; index < Math.min(7, Math.abs(fifths)); index++)
    accidentals[fifths > 0 ? sharpOrder[index]! : sharpOrder[6 - index]!] = fifths > 0 ? 1 : -1
  return accidentals
}
