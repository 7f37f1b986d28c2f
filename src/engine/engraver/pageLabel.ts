import type { PartHeading } from '@/core/notation/headings'
import { bounded } from '@/core/text/bounded'

/** Letters of a name that have room beside the first line, and lines of them. */
const lettersToLine = 22
const mostLines = 3

/** A name as it stands beside its staff: a long one in several lines; what is longer still is cut, and is whole in the list of parts. */
export function pageLabel(name: string): string {
  if (name.length <= lettersToLine) return name
  const lines: string[] = ['']
  for (const word of name.split(/\s+/)) {
    const line = lines.at(-1)!
    if (line === '') lines[lines.length - 1] = word
    else if (line.length + 1 + word.length <= lettersToLine) lines[lines.length - 1] = `${line} ${word}`
    else lines.push(word)
  }
  const shown = lines
    .slice(0, mostLines)
    .map((line) => (line.length > lettersToLine ? `${bounded(line, lettersToLine - 1)}…` : line))
  if (lines.length > mostLines) shown[mostLines - 1] = `${shown[mostLines - 1]!.replace(/…$/, '')}…`
  return shown.join('\n')
}

/** A part as it is called beside a line of music: in full beside the first, in short beside the others. */
export function labelled<Heading extends PartHeading>(part: Heading, isFirstLine: boolean): Heading {
  return { ...part, name: isFirstLine ? pageLabel(part.name) : part.shortName, shortName: '' }
}
