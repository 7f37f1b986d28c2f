import { judge, performed } from '../src/core/separation/voices/judging.testing'
import { type KnownMusic, knownMusic, mergedNotes } from '../src/core/separation/voices/knownMusic.testing'
import { separateVoices } from '../src/core/separation/voices/separateVoices'
import { splitHands } from '../src/core/separation/voices/splitHands'
import { countVoices } from '../src/core/separation/voices/voiceCount'

/**
 * How well lines and hands are told apart, piece by piece: music in the public domain, merged to one player, as written and as
 * played with errors of 15 ms. `npm run report:voices`
 */
const togetherQuarters = 0.08
const percent = (share: number) => `${(share * 100).toFixed(1).padStart(5)} %`

function linesOf(music: KnownMusic, seed: number | null) {
  const notes = seed === null ? mergedNotes(music) : performed(mergedNotes(music), seed)
  const voices = new Set(notes.map(({ voice }) => voice)).size
  const { f1, share } = judge(notes, separateVoices(notes, { voices, togetherQuarters }))
  return { f1, share, voices, found: countVoices(notes, togetherQuarters) }
}

function handsOf(music: KnownMusic, seed: number | null): number {
  const notes = seed === null ? mergedNotes(music) : performed(mergedNotes(music), seed)
  const isRight = splitHands(notes, togetherQuarters)
  return notes.filter(({ voice }, index) => (voice === 1) === isRight[index]).length / notes.length
}

const line = (cells: readonly string[]) => process.stdout.write(`${cells.join('  ')}\n`)
line(['piece'.padEnd(52), 'links F1', 'in voice', 'played F1', 'voices, found'])
for (const music of knownMusic.filter(({ kind }) => kind !== 'hands')) {
  const [written, played] = [linesOf(music, null), linesOf(music, 1)]
  line([
    music.title.padEnd(52),
    percent(written.f1),
    percent(written.share),
    percent(played.f1),
    `${written.voices}, ${played.found}`,
  ])
}
line(['', '', '', ''])
line(['hands'.padEnd(52), 'on staff', 'as played'])
for (const music of knownMusic.filter(({ kind }) => kind === 'hands'))
  line([music.title.padEnd(52), percent(handsOf(music, null)), percent(handsOf(music, 5))])
