import { useState } from 'react'
import { longestFingering } from '@/core/notation/amendments/amendment'
import { chordSymbol } from '@/core/notation/chordSymbols/chordSymbol'
import { findNote } from '@/core/project/findNote'
import type { Project, Words } from '@/core/project/schema'
import { nameSection } from '@/core/project/sections'
import { addWords, changeWords, newWords } from '@/core/project/words'
import { longestName } from '@/core/text/bounded'
import type { WrittenPlace } from '@/engine/engraver/choosing'
import { Choice } from '../controls/Choice'
import { useSession } from '../workspace/sessionContext'
import { tell } from '../workspace/viewStore'
import type { Pen } from './usePen'

const kinds = [
  { value: 'text', text: 'words', says: 'words above the staff' },
  { value: 'lyric', text: 'syllable', says: 'syllable' },
  { value: 'chord', text: 'chord', says: 'chord symbol' },
  { value: 'fingering', text: 'finger', says: 'finger' },
  { value: 'mark', text: 'letter', says: 'rehearsal mark' },
] as const
type Kind = (typeof kinds)[number]['value']

/** What is typed at what is chosen: words, a syllable, a chord symbol, a finger, a rehearsal mark. */
export function WordsAtNote({ project, place, pen }: { project: Project; place: WrittenPlace; pen: Pen }) {
  const session = useSession()
  const [kind, setKind] = useState<Kind>('text')
  const [draft, setDraft] = useState<string | null>(null)
  const offered =
    place.noteId === null ? kinds.filter(({ value }) => value !== 'fingering' && value !== 'lyric') : kinds
  const chosen = offered.some(({ value }) => value === kind) ? kind : 'text'
  const place0 = placeOfWords(project, place, chosen)
  const standing = chosen === 'mark' || chosen === 'fingering' ? null : wordsAt(project, place0, chosen)
  const value =
    chosen === 'fingering'
      ? (place.fingering ?? '')
      : chosen === 'mark'
        ? (project.sections.find(({ tick }) => tick === barStart(place, session))?.name ?? '')
        : (standing?.text ?? '')

  const keep = () => {
    const text = draft?.trim()
    setDraft(null)
    if (text === undefined || text === value) return
    const { apply, project: before } = session.store.getState()
    if (chosen === 'fingering')
      pen.write('finger', { to: 'fingering', text: text.slice(0, longestFingering) })
    else if (chosen === 'mark') apply('rehearsal mark', (now) => nameSection(now, place.bar, text))
    else if (chosen === 'chord' && text !== '' && !chordSymbol(text))
      tell(
        `“${text}” is no chord symbol that is known here: a letter, ♯ or ♭, and its kind, as in F#m7/C#.`,
        before,
      )
    else
      apply(kinds.find((each) => each.value === chosen)!.says, (now) => {
        const old = wordsAt(now, place0, chosen)
        if (text === '') return old ? changeWords(now, old, null) : now
        const next = newWords(chosen, place0.tick, place0.trackId, text)
        return old ? changeWords(now, old, next) : addWords(now, [next])
      })
  }
  return (
    <div className="mb-2 flex gap-1">
      <Choice
        label="What is typed"
        isLabelHidden
        className="w-[92px] shrink-0"
        value={chosen}
        options={offered}
        onChange={(next) => {
          setDraft(null)
          setKind(next)
        }}
      />
      <input
        aria-label={offered.find((each) => each.value === chosen)!.says}
        className="min-w-0 flex-1 rounded border border-rule bg-sheet px-1.5 py-0.5 text-[13px]"
        maxLength={longestName}
        value={draft ?? value}
        placeholder="type, then Enter"
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') keep()
          if (event.key === 'Escape') {
            event.stopPropagation()
            setDraft(null)
          }
        }}
      />
    </div>
  )
}

function barStart(place: WrittenPlace, session: ReturnType<typeof useSession>): number | undefined {
  return session.engraving.state.getState().outline?.measures[place.bar - 1]?.startTicks
}

interface PlaceOfWords {
  readonly tick: number
  readonly trackId: string | null
}

/** Syllables are of the note as it was played, chords of the whole piece, other words of the staff where they are written. */
function placeOfWords(project: Project, place: WrittenPlace, kind: Kind): PlaceOfWords {
  if (kind === 'chord') return { tick: place.onsetTicks, trackId: null }
  const played = place.noteId === null ? undefined : findNote(project, place.noteId)?.note.onsetTicks
  return { tick: kind === 'lyric' ? (played ?? place.onsetTicks) : place.onsetTicks, trackId: place.trackId }
}

function wordsAt({ words }: Project, { tick, trackId }: PlaceOfWords, kind: Kind): Words | null {
  return words.find((each) => each.kind === kind && each.tick === tick && each.trackId === trackId) ?? null
}
