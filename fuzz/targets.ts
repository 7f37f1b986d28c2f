import { isDeepStrictEqual } from 'node:util'
import fc from 'fast-check'
import { strToU8, unzipSync, zipSync } from 'fflate'
import { FileProblem } from '../src/core/border/fileProblem'
import { createDemo } from '../src/core/demo/harbourEvening'
import { ClipboardError, readCopied } from '../src/core/editing/clipboard'
import { newSlot } from '../src/core/effects/catalogue'
import { barsOfMidi } from '../src/core/formats/barsOfMidi'
import { generateFromSpec, printEveryTrack, readChain, SpecError } from '../src/core/formats/batchSpecs'
import { compressMusicXml } from '../src/core/formats/compressedMusicXml'
import { ImportError, midiToProject } from '../src/core/formats/midiToProject'
import { writeMusicXml } from '../src/core/formats/musicXml'
import { openFile } from '../src/core/formats/openFile'
import { readProjectFile, writeProjectFile } from '../src/core/formats/projectFile'
import { projectToMidi } from '../src/core/formats/projectToMidi'
import { readMusicXml } from '../src/core/formats/readMusicXml/readMusicXml'
import {
  OptionError,
  parseScoreOptions,
  scoreFromFile,
  scoreOptionNames,
} from '../src/core/formats/scoreFromFile'
import { scoreToProject } from '../src/core/formats/scoreToProject'
import { writeAbc } from '../src/core/formats/writeAbc'
import { readChart } from '../src/core/generators/chordChart'
import { readAbc } from '../src/core/generators/typed/abc'
import { readLists } from '../src/core/generators/typed/lists'
import type { TypedMusic } from '../src/core/generators/typed/typedPart'
import { isBalanced } from '../src/core/ledger/ledger'
import { inspectMidiFile } from '../src/core/midi/standardMidiFile/inspect'
import { type MidiFile, MidiFileError } from '../src/core/midi/standardMidiFile/model'
import { fileParts } from '../src/core/midi/standardMidiFile/parts'
import { readMidiFile } from '../src/core/midi/standardMidiFile/read'
import { writeMidiFile } from '../src/core/midi/standardMidiFile/write'
import { inventedMusic } from '../src/core/notation/writtenMusic/inventedMusic.testing'
import { misfit } from '../src/core/project/fit'
import { addGenerator } from '../src/core/project/generatorCommands'
import { ProjectFormatError } from '../src/core/project/migrate'
import { copyChosen, paste } from '../src/core/project/moveMaterial'
import { headingsOf, scoreOf } from '../src/core/project/onPage'
import { layBars } from '../src/core/project/playedBars'
import { applyTemplate, readTemplate, templateOf } from '../src/core/project/template'
import type { KeptOutline } from '../src/core/sound/keptSound'
import { readWav } from '../src/core/sound/readWav'
import { writeWav } from '../src/core/sound/wav'
import type { Chanceful } from './chanceful'
import { alterJson, changeJson, damageBytes, damageText, damageTrack, damageXml } from './damage'

/** One kind of input: how a damaged one is made, and what must hold whatever it is. */
export interface Target {
  readonly name: string
  make(by: Chanceful): Uint8Array
  /** @throws a named error where the input is bad; anything else is a fault */
  take(input: Uint8Array): void
  /** Errors that are an answer, not a fault. */
  readonly named: readonly (new (
    ...args: never[]
  ) => Error)[]
}

const demo = addGenerator(createDemo('demo', 0, 'computer-keyboard').project, 'accompaniment').project
const settings = parseScoreOptions({})
const identity = { id: 'fuzz', name: 'Fuzz', nowMs: 0 }

/** Small files of several kinds to begin from. */
const midiSeeds = [
  writeMidiFile(projectToMidi(demo, demo.tracks, 480)),
  writeMidiFile(projectToMidi(demo, demo.tracks.slice(0, 1), 96)).slice(0, 400),
  Uint8Array.from(
    Buffer.from(
      '4d546864000000060000000100604d54726b0000002200ff580404021808 00ff51030 7a120 00903c6460903c0000c00500e0004000b04000 00ff2f00'.replaceAll(
        ' ',
        '',
      ),
      'hex',
    ),
  ),
  Uint8Array.from(
    Buffer.from('4d546864000000060000000100014d54726b0000000fffffff7f903c5001803c4000ff2f00', 'hex'),
  ),
]

const midiFiles = midiSeeds.slice(0, 1).map((bytes) => readMidiFile(bytes))

/** Events with other numbers, fewer, twice or in another order; what cannot be written so is written as it was. */
function alteredMidi(file: MidiFile, by: Chanceful): Uint8Array {
  try {
    return writeMidiFile(alterJson(file, by) as MidiFile)
  } catch (error) {
    if (!(error instanceof MidiFileError || error instanceof RangeError)) throw error
    return writeMidiFile(file)
  }
}

const midi: Target = {
  name: 'MIDI files',
  named: [MidiFileError, ImportError],
  make(by) {
    const seed = by.pick(midiSeeds)
    switch (by.below(8)) {
      case 0:
        return damageBytes(seed, by)
      case 1:
        return damageTrack(seed, by)
      default:
        return alteredMidi(by.pick(midiFiles), by)
    }
  },
  take(input) {
    const file = readMidiFile(input)
    inspectMidiFile(file)
    const { project } = midiToProject(file, identity)
    const problem = misfit(project, null)
    if (problem) throw new Error(`It was opened, but could not be stored: ${problem}`)
    readMidiFile(writeMidiFile(projectToMidi(project, project.tracks, 480)))
    const { score, headings } = scoreFromFile(input, 'Fuzz', settings, {
      mostEvents: 20_000,
      mostNotes: 5000,
    })
    writeMusicXml(score, headings)
  },
}

const bars: Target = {
  name: 'bars of MIDI files',
  named: [MidiFileError, ImportError],
  make: midi.make,
  take(input) {
    const file = readMidiFile(input)
    const barred = barsOfMidi(file)
    const again = readMidiFile(writeMidiFile(barred.file))
    const notesOf = (parts: ReturnType<typeof fileParts>) =>
      parts.reduce((sum, { notes }) => sum + notes.length, 0)
    const [before, after] = [notesOf(fileParts(file)), notesOf(fileParts(again))]
    if (before !== after) throw new Error(`Of ${before} notes ${after} came through`)
    const { project } = midiToProject(file, identity)
    const problem = misfit(layBars(project, barred.found), null)
    if (problem) throw new Error(`Its bars were laid, but could not be stored: ${problem}`)
  },
}

const flac = Uint8Array.from([0x66, 0x4c, 0x61, 0x43, 0, 0, 0, 34])
/** A tenth of a second of sound that was kept. */
const keptSecond: KeptOutline = {
  streamId: 'stream',
  portId: 'input',
  startMs: 1_700_000_000_000,
  sampleRate: 48_000,
  sampleCount: 4800,
  firstSample: 0,
  byteLength: flac.length,
  peaks: new Uint8Array(10).fill(90),
  places: new Int16Array(10).fill(6200),
  confidences: new Uint8Array(10).fill(200),
}
const { takeSerial, events } = createDemo('demo', 0, 'computer-keyboard')
const projectEntries = unzipSync(
  writeProjectFile({
    project: demo,
    takes: [{ takeSerial, events }],
    assets: [],
    sounds: [{ outline: keptSecond, flac }],
  }),
)
const jsonEntries = Object.keys(projectEntries).filter((name) => name.endsWith('.json'))
const projectFiles: Target = {
  name: 'project files',
  named: [ProjectFormatError],
  make(by) {
    const name = by.pick(jsonEntries)
    const text = new TextDecoder().decode(projectEntries[name])
    const damaged = JSON.stringify(changeJson(JSON.parse(text), by)) ?? 'null'
    const archive = zipSync({ ...projectEntries, [name]: strToU8(damaged) }, { level: 0 })
    return by.below(10) === 0 ? damageBytes(archive, by) : archive
  },
  take(input) {
    const file = readProjectFile(input)
    const problem = misfit(file.project, null)
    if (problem) throw new Error(`It was opened, but could not be stored: ${problem}`)
    const again = readProjectFile(writeProjectFile(file))
    if (again.aside.length > 0) throw new Error(`It was stored, but not read: ${again.aside[0]!.reason}`)
    if (!isDeepStrictEqual(again.project, file.project)) throw new Error('It came back as another piece')
  },
}

const notationSeeds = fc
  .sample(inventedMusic, { numRuns: 3, seed: 3 })
  .map((music) => scoreToProject(music, identity).project)
  .concat(demo)
  .map((project) => writeMusicXml(scoreOf(project), headingsOf(project)))
/** Small, with everything that players are told of the way through a piece. */
const meiSeed = `<mei><music><body><mdiv><score><scoreDef meter.count="3" meter.unit="4" key.sig="2f"><staffGrp><staffGrp symbol="brace"><staffDef n="1" clef.shape="G" clef.line="2"/><staffDef n="2" clef.shape="F" clef.line="4"/></staffGrp></staffGrp></scoreDef><section><measure n="1" right="rptend"><staff n="1"><layer n="1"><note xml:id="a" pname="c" oct="5" dur="4" dots="1" tie="i"/><note xml:id="b" pname="c" oct="5" dur="8" tie="t"/><tuplet num="3" numbase="2"><note pname="e" oct="5" dur="8"/><rest dur="8"/><note pname="g" oct="5" dur="8" accid="s"/></tuplet></layer></staff><staff n="2"><layer n="1"><chord dur="2"><note pname="c" oct="3"/><note pname="g" oct="3"/></chord><clef shape="G" line="2"/><space dur="4"/></layer></staff><slur startid="#a" endid="#b"/><hairpin form="cres" tstamp="1" tstamp2="0m+3" staff="1"/><dynam tstamp="1" staff="1">p</dynam></measure><ending n="1"><measure n="2" right="rptend"><staff n="1"><layer n="1"><mRest/></layer></staff></measure></ending><ending n="2"><measure n="3" right="end"><staff n="1"><layer n="1"><note pname="b" oct="4" dur="2" dots="1" artic="stacc"/></layer></staff></measure></ending></section></score></mdiv></body></music></mei>`

const notation: Target = {
  name: 'files of notation',
  named: [FileProblem],
  make(by) {
    const text = by.below(3) === 0 ? meiSeed : by.pick(notationSeeds)
    const damaged = damageXml(text, by)
    return encode(
      by.below(6) === 0 ? damageText(damaged, ['<', '>', '/', '"', '&', '0', 'note'], by) : damaged,
    )
  },
  take(input) {
    const { project } = openFile(input, identity, { mostEvents: 20_000, mostNotes: 20_000 })
    const problem = misfit(project, null)
    if (problem) throw new Error(`It was opened, but could not be stored: ${problem}`)
    const again = readProjectFile(writeProjectFile({ project, takes: [], assets: [], sounds: [] }))
    if (again.aside.length > 0) throw new Error(`It was stored, but not read: ${again.aside[0]!.reason}`)
    const score = scoreOf(again.project)
    for (const { ledger, id } of score.parts)
      if (!isBalanced(ledger)) throw new Error(`Notes of ${id} are not accounted for`)
    readMusicXml(writeMusicXml(score, headingsOf(again.project)))
  },
}

const tuneSeeds = fc
  .sample(inventedMusic, { numRuns: 3, seed: 5 })
  .map((music) => scoreToProject(music, identity).project)
  .concat(demo)
  .map((project) => writeAbc(scoreOf(project), headingsOf(project)).text)
  .concat(
    'X:1\nT:Quay\nM:6/8\nL:1/8\nQ:3/8=80\n%%score {R | L}\nV:R clef=treble name="Piano"\nV:L clef=bass\nK:Dm\n[V:R] |: "Dm"d2e f3 | .c(_BA) {ga}!trill!g3 |1 (3abc (5:4:5abcde z :|2 [DFA]6 |] & A6 |\nw: la-la la * foo_ bar\n[V:L] D,3 A,,3- | A,,6 |1 x6 :|2 Z2 | [M:3/4][K:G clef=alto] D,4 z2 |\n',
  )

const tunes: Target = {
  name: 'tunes as files',
  named: [FileProblem],
  make: (by) =>
    encode(
      damageText(
        by.pick(tuneSeeds),
        ['|', ':', '(', '[', ']', '{', '!', '"', '-', '&', '/', '9', 'Z', 'K:', 'V:', 'M:', '\n', "'"],
        by,
      ),
    ),
  take(input) {
    notation.take(input)
    const { project } = openFile(input, identity)
    writeAbc(scoreOf(project), headingsOf(project))
  },
}

const encode = (text: string) => new TextEncoder().encode(text)
const decode = (bytes: Uint8Array) => new TextDecoder().decode(bytes)

function checkTyped(text: string, { parts, problems }: TypedMusic): void {
  const lines = text.split('\n').length
  for (const { line, column } of problems)
    if (!(line >= 1 && line <= lines && column >= 1)) throw new Error(`A problem lies at ${line}:${column}`)
  for (const part of parts)
    for (const note of part.notes)
      if (
        !(note.onsetTicks >= 0 && note.durationTicks > 0 && note.keys.every((key) => key >= 0 && key <= 127))
      )
        throw new Error(`A note came out as ${JSON.stringify(note)}`)
}

const abc: Target = {
  name: 'ABC',
  named: [],
  make: (by) =>
    encode(
      damageText(
        'X:1\nT:Lantern round\nM:4/4\nL:1/8\nQ:1/4=100\nK:Dm\nV:1 name="Bell"\n|: D2 F2 A2 d2 | c>A (3GFE F4 :|\nV:2\n|: [D,A,]4 z4 | ^G,,/2 _B,4- B,4 :|\n',
        [
          '|:',
          ':|',
          '(3',
          '>',
          '<',
          '/',
          '[',
          ']',
          '-',
          'V:',
          'K:',
          'M:0/0',
          'L:1/0',
          'Q:0',
          '^',
          '_',
          '=',
          "'",
          ',',
          '9999',
          '\n',
          '%',
          '&',
        ],
        by,
      ),
    ),
  take(input) {
    const text = decode(input)
    checkTyped(text, readAbc(text))
  },
}

const lists: Target = {
  name: 'lists of pitches',
  named: [],
  make: (by) =>
    encode(
      damageText(
        'part Bell, channel 1, program 15\nE5 1/8 G5 B5 1/4 | A5 1/8. F#5 D5+F5+A5 1/8t\n\npart Low water, channel 2, gate 80, offset 12\nE2 1/4. v80 B2 1/2+1/8 r # rest\n',
        [
          'part ',
          ',',
          'channel ',
          '17',
          '-1',
          '1/0',
          '0/1',
          '999999999',
          '+',
          '.',
          't',
          'v',
          'r',
          '|',
          '#',
          'C-9',
          'G99',
          '\n',
          'gate ',
          'offset ',
        ],
        by,
      ),
    ),
  take(input) {
    const text = decode(input)
    checkTyped(text, readLists(text))
  },
}

const charts: Target = {
  name: 'chord charts',
  named: [],
  make: (by) =>
    encode(
      damageText(
        '# intro\n|: Dm7 | G7 % :| x3\nCmaj7 Am7/E | N.C. | F#m7b5 B7#9 | %\n',
        ['|', '|:', ':|', 'x', '99999', '%', 'N.C.', '/', '#', 'b', 'maj7', '(', ')', '\n', ' '],
        by,
      ),
    ),
  take(input) {
    readChart(decode(input))
  },
}

const small = { ...demo, tracks: demo.tracks.slice(0, 1) }
const chains: Target = {
  name: 'chains',
  named: [SpecError],
  make: (by) =>
    encode(
      JSON.stringify(
        changeJson(
          [
            newSlot('arpeggio', 'a'),
            newSlot('echo', 'b'),
            newSlot('chordInKey', 'c'),
            newSlot('humanise', 'd'),
            newSlot('controllerMovement', 'e'),
          ],
          by,
        ),
      ) ?? 'null',
    ),
  take(input) {
    const printed = printEveryTrack(small, readChain(decode(input), 1))
    const problem = misfit(printed.project, null)
    if (problem) throw new Error(`It was printed, but could not be stored: ${problem}`)
  },
}

const copied: Target = {
  name: 'notes on the clipboard',
  named: [ClipboardError],
  make: (by) => {
    const [track] = demo.tracks
    const noteIds = new Set(track!.clips[0]!.notes.slice(0, 12).map(({ id }) => id))
    const { text } = copyChosen(demo, { trackId: track!.id, noteIds })!
    return encode(JSON.stringify(changeJson(JSON.parse(text), by)) ?? 'null')
  },
  take(input) {
    const pasted = paste(small, small.tracks[0]!.id, 40_320, readCopied(decode(input)))
    const problem = misfit(pasted.project, null)
    if (problem) throw new Error(`It was pasted, but could not be stored: ${problem}`)
  },
}

const specs: Target = {
  name: 'specifications of generators',
  named: [SpecError],
  make: (by) => {
    const works = demo.generators.map(({ work }) => work)
    return encode(
      JSON.stringify(changeJson({ name: 'Fuzz', tempoBpm: 96, work: by.pick(works) }, by)) ?? 'null',
    )
  },
  take(input) {
    const project = generateFromSpec(decode(input))
    const problem = misfit(project, null)
    if (problem) throw new Error(`It was made, but could not be stored: ${problem}`)
  },
}

const setUp = templateOf(demo, 'set-up', 'Fuzz', 0)
const setUps: Target = {
  name: 'set-ups',
  named: [ProjectFormatError],
  make: (by) => encode(JSON.stringify(changeJson(setUp, by)) ?? 'null'),
  take(input) {
    const template = readTemplate(JSON.parse(decode(input)))
    const problem = misfit(applyTemplate(demo, template), null)
    if (problem) throw new Error(`It was used, but could not be stored: ${problem}`)
  },
}

const samples = Float32Array.from({ length: 400 }, (_, index) => Math.sin(index / 5))
const wavSeeds = ([16, 24] as const).map(
  (bits) => new Uint8Array(writeWav({ left: samples, right: samples }, 44_100, bits)),
)
const recordings: Target = {
  name: 'recordings',
  named: [FileProblem],
  make: (by) => {
    const wav = Uint8Array.from(by.pick(wavSeeds))
    if (by.below(3) > 0) return damageBytes(wav, by)
    // The description of the sound, small as it is beside the sound.
    wav[12 + by.below(32)] = by.below(256)
    return wav
  },
  take(input) {
    const { sampleRate, channels } = readWav(input)
    if (
      !(sampleRate > 0) ||
      channels.length === 0 ||
      channels.some(({ length }) => length !== channels[0]!.length)
    )
      throw new Error(`It was read as ${channels.length} channels at ${sampleRate}`)
  },
}

const packed: Target = {
  name: 'compressed notation',
  named: [FileProblem],
  make: (by) => {
    const entries = unzipSync(compressMusicXml(by.pick(notationSeeds)))
    const name = by.pick(Object.keys(entries))
    const archive = zipSync(
      { ...entries, [name]: encode(damageXml(decode(entries[name]!), by)) },
      { level: 1 },
    )
    return by.below(4) === 0 ? damageBytes(archive, by) : archive
  },
  take: notation.take,
}

const optionWords: Readonly<Record<string, readonly string[]>> = {
  split: ['C4', 'F#3', '60', 'hands'],
  grid: ['4', '8', '16', '32'],
  pitch: ['written', 'concert'],
  'min-velocity': ['0', '20'],
  'min-length-ms': ['0', '35.5'],
  'chord-window-ms': ['0', '40'],
}
const oddWords = ['', 'x', '-1', '9999999999', 'H2', 'ON']
const optionsByChance = (by: Chanceful) =>
  Array.from({ length: 1 + by.below(3) }, () => {
    const name = by.pick(scoreOptionNames)
    return [name, by.pick(by.below(8) === 0 ? oddWords : (optionWords[name] ?? ['on', 'off']))]
  })
const requests: Target = {
  name: 'options of a request',
  named: [OptionError],
  make: (by) => encode(JSON.stringify(Object.fromEntries(optionsByChance(by)))),
  take(input) {
    parseScoreOptions(JSON.parse(decode(input)))
  },
}

/** MIDI files come first: they are what arrives from anywhere. */
export const targets: readonly Target[] = [
  midi,
  bars,
  projectFiles,
  notation,
  tunes,
  abc,
  lists,
  charts,
  chains,
  copied,
  specs,
  setUps,
  recordings,
  packed,
  requests,
]
