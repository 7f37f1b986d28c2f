import type { MidiFile, MidiFileEvent, TextEventType } from '../midi/standardMidiFile/model'
import type { FilePart } from '../midi/standardMidiFile/parts'
import type { Project, Words } from '../project/schema'
import { firstWords } from '../project/words'
import { boundedName } from '../text/bounded'
import { lastTick, type Ticks } from '../time/units'

type TextEvent = Extract<MidiFileEvent, { readonly type: TextEventType }>

const wordKindOf: Partial<Record<TextEventType, Words['kind']>> = { text: 'text', lyric: 'lyric', cue: 'cue' }

/**
 * What is sung, said and written in a file. Syllables of a track without notes go to the part that begins its notes where they are;
 * texts of such a track belong to the whole piece.
 *
 * @param trackIdOf the track each part became, in order of the parts
 * @param scale from the file's ticks to the project's
 */
export function wordsFromMidi(
  file: MidiFile,
  parts: readonly FilePart[],
  trackIdOf: readonly string[],
  scale: (tick: number) => Ticks,
): { readonly fields: Pick<Project, 'words' | 'composer' | 'rights'>; readonly warnings: readonly string[] } {
  const words: Words[] = []
  const rights = new Set<string>()
  let composer = ''
  for (const [trackIndex, { events }] of file.tracks.entries()) {
    const texts = events.filter(isTextEvent)
    const isSungText = hasSungTexts(texts)
    const own = parts.findIndex((part) => part.trackIndex === trackIndex)
    let singer: string | null | undefined
    for (const event of texts) {
      if (event.text.trim() === '') continue
      if (event.type === 'copyright') rights.add(event.text.trim())
      const named = event.type === 'text' && event.tick === 0 ? composerIn(event.text) : null
      if (named) composer ||= named
      const isInstruction = isSungText && event.text.startsWith('@')
      const kind = isSungText && event.type === 'text' ? 'lyric' : wordKindOf[event.type]
      if (!kind || named || isInstruction || scale(event.tick) > lastTick) continue
      if (own < 0 && kind === 'lyric' && singer === undefined)
        singer = trackIdOf[singingPart(parts, texts)] ?? null
      const trackId = own >= 0 ? trackIdOf[own]! : kind === 'lyric' ? (singer ?? null) : null
      words.push({ kind, tick: scale(event.tick), trackId, text: boundedName(event.text) })
    }
  }
  const kept = firstWords(words)
  const left = words.length - kept.length
  const number = (value: number) => value.toLocaleString('en')
  return {
    fields: { words: kept, composer: boundedName(composer), rights: boundedName([...rights].join('; ')) },
    warnings:
      left > 0
        ? [`Of ${number(words.length)} syllables and texts the first ${number(kept.length)} were taken over.`]
        : [],
  }
}

const isTextEvent = (event: MidiFileEvent): event is TextEvent => 'text' in event

/** Files with words to sing along have them as plain texts, with instructions that begin with an at sign. */
function hasSungTexts(texts: readonly TextEvent[]): boolean {
  return (
    texts.some(({ type, text }) => type === 'text' && /^@[KLTVI]/.test(text)) ||
    texts.filter(({ type, text }) => type === 'text' && /^[/\\]/.test(text)).length > 1
  )
}

/** Who made the music, where a text at the beginning says so: no event of its own does. */
function composerIn(text: string): string | null {
  return (
    /^\s*(?:composer\s*:|(?:composed|music|words and music)\s+by\s*:?|by\s+)\s*(\S.*)$/i
      .exec(text)?.[1]
      ?.trim() ?? null
  )
}

/** The part that begins a note at most of the syllables. */
function singingPart(parts: readonly FilePart[], texts: readonly TextEvent[]): number {
  const ticks = texts.filter(({ type }) => type === 'lyric' || type === 'text').map(({ tick }) => tick)
  const shares = parts.map(({ notes }) => {
    const onsets = new Set(notes.map(({ onTick }) => onTick))
    const together = ticks.filter((tick) => onsets.has(tick)).length
    // Of two that sing as much the one with fewer notes beside it sings.
    return together - notes.length / 1e6
  })
  return shares.indexOf(Math.max(...shares))
}
