import Parse, { type AbcTune } from 'abcjs/src/parse/abc_parse.js'
import type { WrittenMusic } from '../../notation/writtenMusic/writtenMusic'
import { boundedName } from '../../text/bounded'
import { ReadingProblems } from '../readingProblems'
import { AbcError } from './abcError'
import { AbcPart } from './abcPart'
import type { AbcPieceSays } from './abcSays'
import { tempoOf } from './abcValues'

/** A field that begins a tune, or names its key: what no other text has at the beginning of lines. */
export function isAbc(text: string): boolean {
  return /^%abc/.test(text) || (/^X:\s*\d*/m.test(text) && /^K:/m.test(text))
}

const longestText = 4_000_000

/**
 * Reads the first tune of a text in ABC notation (the abc music standard 2.1). The text is taken apart by abcjs; what is drawn, and
 * what has no place here, is told.
 *
 * @throws AbcError
 */
export function readAbc(text: string): {
  readonly music: WrittenMusic
  readonly warnings: readonly string[]
} {
  if (text.length > longestText)
    throw new AbcError(`The text has ${text.length.toLocaleString('en')} letters; tunes have far fewer`)
  const starts = [...text.matchAll(/^X:/gm)].map(({ index }) => index)
  const first = text.slice(starts[0] ?? 0, starts[1] ?? text.length)
  const { tune, said } = parsed(first)
  const problems = new ReadingProblems()
  for (const warning of said) problems.add(warning.what, warning.where)
  const says: AbcPieceSays = { bars: [], tempos: [], sections: [], chordSymbols: [] }
  const parts = partsOf(tune, says, problems)
  if (parts.length === 0) throw new AbcError('The tune has no notes')
  const tempoBpm = tune.metaText.tempo ? tempoOf(tune.metaText.tempo) : null
  if (tempoBpm !== null && says.tempos[0]?.bar !== 0)
    says.tempos.unshift({ bar: 0, offsetTicks: 0, tempoBpm })
  const program = Number(tune.formatting.midi?.program?.at(-1) ?? Number.NaN)
  // A bar line at the end begins nothing.
  const count = Math.max(1, ...parts.map(({ entries }) => entries.length))
  return {
    music: {
      headings: {
        title: boundedName(tune.metaText.title ?? ''),
        subtitle: boundedName(tune.lines.find(({ subtitle }) => subtitle)?.subtitle?.text ?? ''),
        composer: boundedName(tune.metaText.composer ?? ''),
        arranger: '',
        rights: boundedName(tune.metaText['abc-copyright'] ?? ''),
      },
      bars: says.bars.slice(0, count).map((bar) => ({ ...bar, breakBefore: null })),
      parts: parts.map((part, index) => part.part(index, Number.isFinite(program) ? program : null)),
      tempos: says.tempos,
      sections: says.sections,
      chordSymbols: says.chordSymbols,
      swing: null,
    },
    warnings: [
      ...problems.sentences(),
      ...(starts.length > 1
        ? [`The file has ${starts.length} tunes; the first was read, the others were left out.`]
        : []),
    ],
  }
}

interface Said {
  readonly what: string
  readonly where: string
}

function parsed(text: string): { readonly tune: AbcTune; readonly said: readonly Said[] } {
  const parser = new Parse()
  try {
    parser.parse(text, {}, 0)
  } catch (error) {
    throw new AbcError(
      `The tune could not be read: ${error instanceof Error ? error.message : String(error)}`,
    )
  }
  return {
    tune: parser.getTune(),
    said: (parser.getWarnings() ?? []).map((warning): Said => {
      // "Music Line:8:1: Unknown character ignored:  …", and the line itself, marked up.
      const [, line, column, what] = /Line:(\d+):(\d+):\s*([^:]*)/.exec(warning) ?? []
      return line === undefined
        ? { what: 'what is not known', where: 'the tune' }
        : {
            what: `what the standard does not have (${what!.trim()})`,
            where: `line ${line}, letter ${column}`,
          }
    }),
  }
}

/** Two staves in one brace are one part. */
function partsOf(tune: AbcTune, says: AbcPieceSays, problems: ReadingProblems): AbcPart[] {
  const parts: AbcPart[] = []
  /** Of each staff: its part, and which of its staves it is. */
  const places: { readonly part: AbcPart; readonly staff: number }[] = []
  for (const { staff: staves = [] } of tune.lines)
    for (const [index, staff] of staves.entries()) {
      if (!places[index]) {
        const above = staves[index - 1]
        const isLower = staff.brace === 'end' && above?.brace === 'start' && places[index - 1] !== undefined
        if (isLower) places[index] = { part: places[index - 1]!.part, staff: 2 }
        else {
          const part = new AbcPart(says, problems)
          parts.push(part)
          places[index] = { part, staff: 1 }
        }
      }
      const { part, staff: number } = places[index]!
      part.line(staff, number, index === 0)
    }
  return parts.filter(({ entries }) => entries.length > 0)
}
