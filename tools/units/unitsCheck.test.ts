import path from 'node:path'
import ts from '@typescript/typescript6'
import { findUnitFaults } from './unitsCheck'

const declarations = `
type Ticks = number & { readonly __unit?: 'ticks' }
type Milliseconds = number & { readonly __unit?: 'milliseconds' }
interface Note { readonly onsetTicks: Ticks; readonly lengthTicks: Ticks; readonly tick: Ticks | null }
declare const note: Note
declare const atMs: Milliseconds
declare const endTicks: Ticks
declare const ticksPerMs: number
declare function sound(atMs: Milliseconds): void
declare function msAt(tick: Ticks): Milliseconds
declare function lengthOf(of: Note): Ticks
`

const options: ts.CompilerOptions = {
  strict: true,
  target: ts.ScriptTarget.ES2022,
  lib: ['lib.es2022.d.ts'],
  types: [],
  noEmit: true,
}

const libraryFiles = new Map<string, ts.SourceFile | undefined>()

/** Read once: they are the same for every example. */
function libraryFile(name: string): ts.SourceFile | undefined {
  if (!libraryFiles.has(name))
    libraryFiles.set(name, ts.createCompilerHost(options).getSourceFile(name, ts.ScriptTarget.ES2022))
  return libraryFiles.get(name)
}

/** What is found in a program of these lines, each a statement of its own. */
function faultsIn(lines: string): string[] {
  const fileName = path.resolve('example.ts')
  const host = ts.createCompilerHost(options)
  host.getSourceFile = (name) =>
    name === fileName
      ? ts.createSourceFile(name, declarations + lines, ts.ScriptTarget.ES2022, true)
      : libraryFile(name)
  const program = ts.createProgram([fileName], options, host)
  expect(ts.getPreEmitDiagnostics(program).map(({ messageText }) => messageText)).toEqual([])
  return findUnitFaults(program, (name) => name === fileName).map(({ text }) => text)
}

describe('units', () => {
  test.each([
    ['a sum of ticks as milliseconds', 'const atTheEnd: Milliseconds = note.onsetTicks + note.lengthTicks'],
    ['a sum of ticks as an argument', 'sound(note.onsetTicks + 10)'],
    ['a constant without a type', 'const sum = note.onsetTicks + note.lengthTicks; sound(sum)'],
    ['a name that tells its unit', 'const endMs = note.onsetTicks + note.lengthTicks'],
    ['a name without a type', 'let stopMs = 0; stopMs = Math.round(endTicks * 2)'],
    ['ticks and milliseconds added', 'const both = note.onsetTicks + atMs'],
    ['ticks and milliseconds compared', 'if (note.onsetTicks > atMs) throw new Error()'],
    ['the later of two units', 'const later = Math.max(endTicks, atMs)'],
    ['seconds as milliseconds', 'const lengthSeconds = 2; sound(lengthSeconds)'],
    ['a property', 'const other = { timeMs: endTicks - note.onsetTicks }'],
    ['a typed property', 'const other: Partial<Note> = { lengthTicks: atMs + 1 }'],
    ['a result', 'function held(): Milliseconds { return note.onsetTicks + note.lengthTicks }'],
    ['a result without braces', 'const held = (of: Note): Milliseconds => of.onsetTicks + of.lengthTicks'],
    ['an initial value', 'function play(fromTicks = atMs + 5) { return fromTicks }'],
    ['a choice', 'const either = atMs > 3 ? endTicks : atMs'],
    ['what may be missing', 'const place = note.tick ?? atMs'],
    ['what a function gives', 'sound(lengthOf(note) - 1)'],
    ['added to', 'let doneTicks = 0; doneTicks += atMs - 5'],
  ])('%s is found', (_name, lines) => expect(faultsIn(lines)).toHaveLength(1))

  test.each([
    ['a sum of one unit', 'const until: Ticks = note.onsetTicks + note.lengthTicks'],
    ['plain numbers', 'sound(500); const half: Ticks = note.lengthTicks / 2'],
    ['a conversion', 'sound(msAt(note.onsetTicks) + 12); sound(endTicks / ticksPerMs)'],
    ['seconds made milliseconds', 'const lengthSeconds = 2; sound(lengthSeconds * 1000)'],
    ['a rate, whose name says so', 'const msPerTicks = atMs / endTicks; sound(endTicks * msPerTicks)'],
    ['other things whose names end so', "const startTicks = ['tick']; const words = startTicks"],
  ])('%s is left alone', (_name, lines) => expect(faultsIn(lines)).toEqual([]))
})
