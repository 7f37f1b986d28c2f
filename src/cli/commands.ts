import { mkdirSync } from 'node:fs'
import { basename, extname, join } from 'node:path'
import { parseArgs } from 'node:util'
import { FileProblem } from '@/core/border/fileProblem'
import { mostLines, parseKeyName } from '@/core/event/note'
import { barsOfMidi, reportOfBars } from '@/core/formats/barsOfMidi'
import {
  generateFromSpec,
  generateFromText,
  printEveryTrack,
  readChain,
  SpecError,
} from '@/core/formats/batchSpecs'
import { compressMusicXml } from '@/core/formats/compressedMusicXml'
import { writeMusicXml } from '@/core/formats/musicXml'
import { kindOfFile, openFile } from '@/core/formats/openFile'
import { writeProjectFile } from '@/core/formats/projectFile'
import { projectToMidi } from '@/core/formats/projectToMidi'
import { reportOfPiece } from '@/core/formats/reportOfPiece'
import { OptionError, parseScoreOptions, scoreFromFile, scoreOptionNames } from '@/core/formats/scoreFromFile'
import { writeForm, writtenForms } from '@/core/formats/writtenForms'
import { problemsOf } from '@/core/generators/generator'
import { inspectMidiFile } from '@/core/midi/standardMidiFile/inspect'
import { readMidiFile } from '@/core/midi/standardMidiFile/read'
import { writeMidiFile } from '@/core/midi/standardMidiFile/write'
import { paperNames } from '@/core/pages/pageSetup'
import { soundingNotes } from '@/core/project/create'
import type { Project } from '@/core/project/schema'
import { safeFileName, separateFile, stemFiles } from '@/core/separation/splitFile'
import { loadVerovio, meiOf } from '@/engine/engraver/verovio'
import packageOfThis from '../../package.json'
import { identityOf, type Options, required, UsageError } from './commandLine'
import { FileAccessError, readInput, readText, writeOutput } from './files'
import { doMany, manyOptions } from './manyFiles'
import { listen, render } from './soundCommands'
import { collected, type Terminal } from './terminal'
import { usage, type usageOf, usageOfCommand } from './usage'

const { version } = packageOfThis

const commands: Record<
  string,
  {
    options: readonly string[]
    /** Options without a value. */
    flags?: readonly string[]
    /** What it writes for each of several files where nothing is said; absent where it takes one file only. */
    form?: string
    answer: (path: string, options: Options, terminal: Terminal) => unknown
  }
> = {
  inspect: { options: [], answer: inspect },
  convert: {
    options: ['out', 'paper', 'bits', 'rate', ...scoreOptionNames],
    flags: ['parts'],
    form: 'musicxml',
    answer: convert,
  },
  score: {
    options: ['out', 'paper', 'parts-dir', ...scoreOptionNames],
    flags: ['parts'],
    form: 'musicxml',
    answer: score,
  },
  split: { options: ['out', 'by', 'voices', 'at'], form: 'mid', answer: split },
  bars: { options: ['out'], form: 'mid', answer: bars },
  stems: { options: ['out'], answer: stems },
  render: { options: ['out', 'stems', 'bits', 'rate'], form: 'wav', answer: render },
  listen: { options: ['out', 'preset', 'a4'], flags: ['chords'], form: 'mid', answer: listen },
  effects: { options: ['out', 'chain', 'seed'], form: 'mid', answer: effects },
  generate: { options: ['out'], answer: generate },
}

/** What is in a file: of MIDI all its tracks and events, of notation its parts and how long it is. */
function inspect(file: string, _: Options, terminal: Terminal) {
  const bytes = readInput(file)
  if (kindOfFile(bytes) === 'midi') return inspectMidiFile(readMidiFile(bytes))
  const { kind, project, warnings } = openFile(bytes, identityOf(file))
  for (const warning of warnings) terminal.say(`${warning}\n`)
  return reportOfPiece(kind, project)
}

async function convert(file: string, options: Options, terminal: Terminal) {
  const out = required(options.out, '--out OUT.musicxml')
  const form = extname(out).toLowerCase().slice(1)
  switch (form) {
    case 'pdf':
      return score(file, options, terminal)
    case 'wav':
    case 'ogg':
      return render(file, options, terminal)
    case 'svg':
      return pictures(file, out, options, terminal)
    case 'mei': {
      const { score, headings, report } = readScore(file, options, terminal)
      writeOutput(out, meiOf(await loadVerovio(), writeMusicXml(score, headings)))
      return report
    }
    case 'voice': {
      const { kind, project, takes, assets, sounds, warnings } = openFile(readInput(file), identityOf(file))
      for (const warning of warnings) terminal.say(`${warning}\n`)
      writeOutput(out, writeProjectFile({ project, takes, assets, sounds }))
      return reportOfPiece(kind, project)
    }
    default: {
      const known = writtenForms.find((each) => each === form)
      if (!known)
        throw new UsageError(
          `--out takes a file that ends in ${[...writtenForms, 'mei', 'svg', 'pdf', 'wav', 'ogg', 'voice'].map((each) => `.${each}`).join(', ')}, not "${out}"`,
        )
      const { report, ...piece } = readScore(file, options, terminal)
      writeOutput(out, writeForm(known, piece))
      return report
    }
  }
}

/** A file as a score, its warnings said. */
function readScore(file: string, options: Options, terminal: Terminal) {
  const read = scoreFromFile(readInput(file), basename(file, extname(file)), parseScoreOptions(options))
  for (const warning of read.warnings) terminal.say(`${warning}\n`)
  return read
}

/** One picture for each page: `OUT.svg`, `OUT-2.svg` and so on. */
async function pictures(file: string, out: string, options: Options, terminal: Terminal) {
  const { pagePictures } = await import('@/rendering/printedPages')
  const { score, headings, report } = readScore(file, options, terminal)
  const pages = await pagePictures(score, headings)
  const files = pages.map((svg, index) => {
    const name = index === 0 ? out : out.replace(/\.svg$/i, `-${index + 1}.svg`)
    writeOutput(name, svg)
    return name
  })
  return { ...report, files }
}

async function score(file: string, options: Options, terminal: Terminal) {
  const out = required(options.out, '--out FILE.musicxml')
  const kind = extname(out).toLowerCase()
  const paper = paperNames.find((name) => name === (options.paper ?? 'A4'))
  if (!paper) throw new UsageError(`--paper takes ${paperNames.join(', ')}, not "${options.paper}"`)
  if (kind !== '.pdf' && (options.parts || options.paper || options['parts-dir']))
    throw new UsageError('--parts, --parts-dir and --paper are for --out FILE.pdf')
  const { score, headings, report } = readScore(file, options, terminal)
  if (kind === '.pdf') {
    const { printedParts, printedPdf } = await import('@/rendering/printedPages')
    const { pdf, books, missingLetters } = await printedPdf(
      score,
      headings,
      paper,
      options.parts !== undefined,
    )
    if (missingLetters) terminal.say(`No font has these letters: ${missingLetters}\n`)
    writeOutput(out, pdf)
    const directory = options['parts-dir']
    if (directory === undefined) return { ...report, books }
    mkdirSync(directory, { recursive: true })
    const parts: { file: string; pages: number }[] = []
    for await (const part of printedParts(score, headings, paper)) {
      const file = join(
        directory,
        `${String(parts.length + 1).padStart(2, '0')} ${safeFileName(part.name)}.pdf`,
      )
      writeOutput(file, part.pdf)
      parts.push({ file, pages: part.pages })
      terminal.say(`${parts.length} of ${score.parts.length} parts: ${part.name}\n`)
    }
    return { ...report, books, parts }
  }
  const musicXml = writeMusicXml(score, headings)
  writeOutput(out, kind === '.mxl' ? compressMusicXml(musicXml) : musicXml)
  return report
}

function split(file: string, options: Options) {
  const way = wayOf(options)
  const out = required(options.out, '--out OUT.mid')
  const { file: separated, parts, captured, unsure } = separateFile(readMidiFile(readInput(file)), way)
  writeOutput(out, writeMidiFile(separated))
  return {
    captured,
    written: parts.reduce((sum, { notes }) => sum + notes, 0),
    merged: 0,
    unsure,
    parts: parts.map(({ name, channel, notes, lowestKey, highestKey }) => ({
      name,
      channel,
      notes,
      lowestKey,
      highestKey,
    })),
  }
}

function wayOf({ by = 'channel', voices, at }: Options): Parameters<typeof separateFile>[1] {
  if (voices !== undefined && by !== 'voice') throw new UsageError('--voices goes with --by voice')
  if (at !== undefined && by !== 'key') throw new UsageError('--at goes with --by key')
  switch (by) {
    case 'channel':
    case 'hand':
    case 'line':
    case 'drum':
      return { by }
    case 'voice': {
      const count = Number(voices ?? 1)
      if (!Number.isInteger(count) || count < 1 || count > mostLines)
        throw new UsageError(`--voices takes a whole number from 1 to ${mostLines}`)
      return { by, voices: voices === undefined ? 'found' : count }
    }
    case 'key':
      return {
        by,
        atKeys: required(at, '--at C4')
          .split(',')
          .map((name) => {
            const key = parseKeyName(name)
            if (key === undefined) throw new UsageError(`--at: there is no key "${name}"`)
            return key
          }),
      }
    default:
      throw new UsageError('--by takes channel, voice, hand, line, key or drum')
  }
}

function bars(file: string, options: Options) {
  const out = required(options.out, '--out OUT.mid')
  const barred = barsOfMidi(readMidiFile(readInput(file)))
  writeOutput(out, writeMidiFile(barred.file))
  return reportOfBars(barred)
}

function stems(file: string, options: Options) {
  const directory = required(options.out, '--out DIR')
  const files = stemFiles(readMidiFile(readInput(file)))
  mkdirSync(directory, { recursive: true })
  for (const stem of files) writeOutput(join(directory, stem.fileName), writeMidiFile(stem.file))
  return {
    files: files.map(({ fileName, part }) => ({
      file: fileName,
      name: part.name,
      channel: part.channel,
      notes: part.notes,
    })),
    notes: files.reduce((sum, { part }) => sum + part.notes, 0),
  }
}

function effects(file: string, options: Options, terminal: Terminal) {
  const out = required(options.out, '--out OUT.mid')
  const chainFile = required(options.chain, '--chain CHAIN.json')
  const seed = options.seed === undefined ? undefined : Number(options.seed)
  if (seed !== undefined && !(Number.isInteger(seed) && seed >= 0 && seed <= 0xffffffff))
    throw new UsageError('--seed takes a whole number from 0 to 4294967295')
  const { project, warnings } = openFile(readInput(file), identityOf(file))
  const chain = readChain(readText(chainFile), seed)
  const printed = printEveryTrack(project, chain)
  for (const warning of warnings) terminal.say(`${warning}\n`)
  if (printed.leftOut > 0)
    terminal.say(`${printed.leftOut} notes beyond 1,000 to the quarter were left out\n`)
  return { ...writeProject(out, printed.project), notesIn: printed.notesIn, leftOut: printed.leftOut }
}

function generate(file: string, options: Options, terminal: Terminal) {
  const out = required(options.out, '--out OUT.mid')
  const kind = extname(file).toLowerCase()
  const text = readText(file)
  if (kind === '.json') return writeProject(out, generateFromSpec(text))
  const name = basename(file, extname(file))
  const language = kind === '.abc' ? 'abc' : 'lists'
  const project = generateFromText(name, text, language)
  const problems = project.generators.flatMap((generator) => problemsOf(generator.work))
  for (const { line, column, text: words } of problems) terminal.say(`${file}:${line}:${column}: ${words}\n`)
  if (problems.length > 0) throw new SpecError(`${file} was not read to its end: ${problems.length} problems`)
  return writeProject(out, project)
}

function writeProject(out: string, project: Project) {
  writeOutput(out, writeMidiFile(projectToMidi(project, project.tracks, 960)))
  const tracks = project.tracks.map((track) => ({
    name: track.name,
    channel: track.channel,
    notes: soundingNotes(track).length,
  }))
  return { tracks, notes: tracks.reduce((sum, track) => sum + track.notes, 0) }
}

/**
 * One command, as it is typed.
 *
 * @param args what stands behind the program's name
 * @returns the exit status: 0 done, 1 the input is bad, 2 the command is
 * @throws what is a fault of the program
 */
export async function unbroken(args: readonly string[], terminal: Terminal): Promise<0 | 1 | 2> {
  const [name, ...rest] = args
  if (name === '--version') {
    terminal.answer(`${version}\n`)
    return 0
  }
  const command = name && Object.hasOwn(commands, name) ? commands[name] : undefined
  if (command && rest.includes('--help')) {
    terminal.say(usageOfCommand(name as keyof typeof usageOf))
    return 0
  }
  if (!command) {
    terminal.say(name && name !== '--help' ? `There is no command "${name}".\n\n${usage}` : usage)
    return name === '--help' ? 0 : 2
  }
  try {
    const many = command.form === undefined ? [] : manyOptions
    const { values, positionals } = parseArguments(rest, [...command.options, ...many], command.flags ?? [])
    if (values['out-dir'] !== undefined)
      return await doMany(
        { name: name!, usualForm: command.form!, flags: command.flags ?? [] },
        positionals,
        values,
        terminal,
        terminal.doElsewhere ?? ((each) => collected((own) => unbroken(each, own))),
      )
    for (const option of ['to', 'jobs'])
      if (values[option] !== undefined)
        throw new UsageError(`--${option} is for several files, with --out-dir DIR`)
    if (positionals.length !== 1)
      throw new UsageError(
        positionals.length === 0
          ? 'FILE is missing'
          : command.form
            ? 'Several files need --out-dir DIR'
            : `${name} takes one file at a time`,
      )
    const answer = await command.answer(positionals[0]!, values, terminal)
    terminal.answer(`${JSON.stringify(answer, null, 2)}\n`)
    return 0
  } catch (error) {
    if (error instanceof UsageError || error instanceof OptionError) {
      terminal.say(`${error.message}\n\n${usage}`)
      return 2
    }
    if (error instanceof FileProblem || error instanceof SpecError || error instanceof FileAccessError) {
      terminal.say(`${error.message}\n`)
      return 1
    }
    throw error
  }
}

function parseArguments(args: readonly string[], names: readonly string[], flags: readonly string[]) {
  try {
    const options = Object.fromEntries([
      ...names.map((option) => [option, { type: 'string' as const }] as const),
      ...flags.map((option) => [option, { type: 'boolean' as const }] as const),
    ])
    const { values, positionals } = parseArgs({ args: [...args], options, allowPositionals: true })
    const given = Object.entries(values).flatMap(([option, value]) =>
      value === false ? [] : [[option, String(value)] as const],
    )
    return { values: Object.fromEntries(given) as Options, positionals }
  } catch (error) {
    throw new UsageError((error as Error).message)
  }
}
