import type { WrittenLevel } from '../../notation/amendments/amendment'
import { printedKinds } from '../../notation/chordSymbols/chordSymbol'
import { type Swing, swingOfWords } from '../../notation/swing'
import type { BarFlow } from '../../notation/writtenMusic/writtenMusic'
import { TICKS_PER_QUARTER, type Ticks } from '../../time/units'
import { child, childrenOf, textOf, type XmlElement } from '../xmlTree'

/** What a direction says, each in its own form; offsets are from the place where the direction stands. */
export type Said =
  | { readonly is: 'level'; readonly mark: WrittenLevel }
  | { readonly is: 'wedge'; readonly type: 'crescendo' | 'diminuendo' | 'stop'; readonly number: string }
  | { readonly is: 'words'; readonly text: string }
  | { readonly is: 'rehearsal'; readonly text: string }
  | { readonly is: 'pedal'; readonly type: 'start' | 'stop' | 'change' }
  | { readonly is: 'octave'; readonly octaves: 1 | 2 | -1 | -2 | 0 }
  | { readonly is: 'tempo'; readonly tempoBpm: number }
  | { readonly is: 'flow'; readonly flow: Partial<BarFlow> }
  | { readonly is: 'swing'; readonly swing: Swing }

/** Levels of the standard that are written here as the nearest that is known. (MusicXML 4.0, `dynamics`.) */
const levelOf: Readonly<Record<string, WrittenLevel>> = {
  pppppp: 'ppp',
  ppppp: 'ppp',
  pppp: 'ppp',
  ppp: 'ppp',
  pp: 'pp',
  p: 'p',
  mp: 'mp',
  mf: 'mf',
  f: 'f',
  ff: 'ff',
  fff: 'fff',
  ffff: 'fff',
  fffff: 'fff',
  ffffff: 'fff',
  fp: 'fp',
  pf: 'f',
  sf: 'sf',
  sfp: 'fp',
  sfpp: 'fp',
  sfz: 'sfz',
  sffz: 'sfz',
  sfzp: 'fp',
  fz: 'sfz',
  rf: 'sf',
  rfz: 'sf',
  n: 'ppp',
}

/** Levels in a `dynamics` element, of a direction or a note. */
export function levelsIn(dynamics: XmlElement): WrittenLevel[] {
  return dynamics.children.flatMap(({ name, text }) =>
    name === 'other-dynamics' ? (levelOf[text.trim()] ?? []) : (levelOf[name] ?? []),
  )
}

const beatUnits: Readonly<Record<string, Ticks>> = {
  breve: TICKS_PER_QUARTER * 8,
  whole: TICKS_PER_QUARTER * 4,
  half: TICKS_PER_QUARTER * 2,
  quarter: TICKS_PER_QUARTER,
  eighth: TICKS_PER_QUARTER / 2,
  '16th': TICKS_PER_QUARTER / 4,
  '32nd': TICKS_PER_QUARTER / 8,
}

/** Quarters a minute of a metronome mark; null where it says a range or a relation. */
function tempoOf(metronome: XmlElement): number | null {
  const unit = beatUnits[textOf(metronome, 'beat-unit') ?? '']
  const perMinute = Number.parseFloat(/[\d.]+/.exec(textOf(metronome, 'per-minute') ?? '')?.[0] ?? '')
  if (unit === undefined || !Number.isFinite(perMinute)) return null
  const dots = childrenOf(metronome, 'beat-unit-dot').length
  return (perMinute * unit * (2 - 0.5 ** dots)) / TICKS_PER_QUARTER
}

/** What a `sound` element says of tempo and of the way through the piece. */
export function soundSays(sound: XmlElement): Said[] {
  const { tempo, dacapo, dalsegno, segno, coda, tocoda, fine } = sound.attributes
  const said: Said[] = []
  const tempoBpm = Number(tempo)
  if (tempo !== undefined && Number.isFinite(tempoBpm) && tempoBpm > 0) said.push({ is: 'tempo', tempoBpm })
  const swing = child(sound, 'swing')
  const ratio = `${textOf(swing, 'first')}:${textOf(swing, 'second')}`
  const known = swingOfWords(`swing, eighths ${ratio}`)
  if (swing && known && textOf(swing, 'swing-type') !== '16th') said.push({ is: 'swing', swing: known })
  const flow: Partial<BarFlow> = {
    ...(dacapo === 'yes' ? { jump: 'da capo' } : {}),
    ...(dalsegno !== undefined ? { jump: 'dal segno' } : {}),
    ...(segno !== undefined ? { segno: true } : {}),
    ...(coda !== undefined ? { coda: true } : {}),
    ...(tocoda !== undefined ? { toCoda: true } : {}),
    ...(fine !== undefined ? { fine: true } : {}),
  }
  if (Object.keys(flow).length > 0) said.push({ is: 'flow', flow })
  return said
}

/** Words that send the player elsewhere, where a file says so in words only. */
function flowOfWords(text: string): Partial<BarFlow> | null {
  const plain = text.trim().toLowerCase()
  if (/^(d\. ?c\.|da capo)/.test(plain)) return { jump: 'da capo' }
  if (/^(d\. ?s\.|dal segno)/.test(plain)) return { jump: 'dal segno' }
  if (/^to coda\b/.test(plain) || /^al coda$/.test(plain)) return { toCoda: true }
  if (/^fine\.?$/.test(plain)) return { fine: true }
  return null
}

/** All that a `direction` says, in order. */
export function directionSays(direction: XmlElement): Said[] {
  const said: Said[] = []
  const sound = child(direction, 'sound')
  const sounded = sound ? soundSays(sound) : []
  const words: string[] = []
  for (const type of childrenOf(direction, 'direction-type'))
    for (const element of type.children)
      switch (element.name) {
        case 'dynamics':
          for (const mark of levelsIn(element)) said.push({ is: 'level', mark })
          break
        case 'wedge': {
          const { type, number = '1' } = element.attributes
          if (type === 'crescendo' || type === 'diminuendo' || type === 'stop')
            said.push({ is: 'wedge', type, number })
          break
        }
        case 'words':
          words.push(element.text)
          break
        case 'rehearsal':
          if (element.text.trim()) said.push({ is: 'rehearsal', text: element.text.trim() })
          break
        case 'segno':
          said.push({ is: 'flow', flow: { segno: true } })
          break
        case 'coda':
          said.push({ is: 'flow', flow: { coda: true } })
          break
        case 'pedal': {
          const { type } = element.attributes
          if (type === 'start' || type === 'stop' || type === 'change') said.push({ is: 'pedal', type })
          break
        }
        case 'octave-shift': {
          const { type, size = '8' } = element.attributes
          const octaves = size === '15' || size === '22' ? 2 : 1
          if (type === 'down') said.push({ is: 'octave', octaves })
          else if (type === 'up') said.push({ is: 'octave', octaves: octaves === 1 ? -1 : -2 })
          else if (type === 'stop') said.push({ is: 'octave', octaves: 0 })
          break
        }
        case 'metronome': {
          const tempoBpm = tempoOf(element)
          if (tempoBpm !== null && !sounded.some(({ is }) => is === 'tempo'))
            said.push({ is: 'tempo', tempoBpm })
          break
        }
      }
  const text = words.join('').replace(/\s+/g, ' ').trim()
  if (text) {
    const flow = flowOfWords(text)
    if (flow) {
      if (!sounded.some(({ is }) => is === 'flow')) said.push({ is: 'flow', flow })
    } else said.push({ is: 'words', text })
  }
  return [...said, ...sounded]
}

/** A `harmony` as a symbol that can be typed; null where it cannot be read. */
export function chordOf(harmony: XmlElement): string | null {
  const root = child(harmony, 'root')
  const kind = child(harmony, 'kind')
  if (kind?.text.trim() === 'none') return 'N.C.'
  const step = textOf(root, 'root-step')
  if (!step || !kind) return null
  const sign = (alter: string | undefined) =>
    ({ '2': '##', '1': '#', '-1': 'b', '-2': 'bb' })[String(Math.round(Number(alter ?? 0)))] ?? ''
  const bass = child(harmony, 'bass')
  const bassStep = textOf(bass, 'bass-step')
  const suffix = kind.attributes.text ?? printedKinds[kind.text.trim()] ?? ''
  return `${step}${sign(textOf(root, 'root-alter'))}${suffix}${bassStep ? `/${bassStep}${sign(textOf(bass, 'bass-alter'))}` : ''}`
}
