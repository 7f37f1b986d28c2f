import { memo, useEffect, useLayoutEffect, useRef, useState } from 'react'
import type { ChosenOnPage } from '@/core/notation/amendments/stroke'
import { noteIdOfElement, restOfElement } from '@/core/notation/noteElements'
import type { EngravedLine, ScoreOutline } from '@/engine/engraver/engraver'
import type { Session } from '@/state/session'
import { threadOf } from '../theme/threads'
import { turnToShow } from './turnToShow'
import type { Picking } from './useNoteWalk'

type System = ScoreOutline['systems'][number]

/** Gives a notehead a colour of its own; null takes it away. */
function colour(note: SVGElement, value: string | null): void {
  note.classList.toggle('is-coloured', value !== null)
  note.style.fill = value ?? ''
  note.style.stroke = value ?? ''
}

/** A stretch of an endless line takes about this much, before it has been engraved. */
const estimatedStretchPx = 2200

/** Room at the left of a line for the marks that say who plays a staff. */
const marginWidth = 16

/**
 * One line of music. It is engraved when it comes near the window; until then it holds its place. Noteheads answer to
 * the pointer, and the marks in the margin carry the thread colour of whoever plays the staff.
 */
export const SystemView = memo(function SystemView({
  session,
  outline,
  system,
  index,
  estimatedHeight,
  levelPx,
  selected,
  restId,
  tints,
  onPick,
  onPickRest,
  onEngraved,
}: {
  session: Session
  outline: ScoreOutline
  system: System
  index: number
  estimatedHeight: number
  /** How far from the top its first staff stands, in an endless line; null in a page. */
  levelPx: number | null
  selected: ReadonlySet<number>
  /** The element of the rest that is chosen; null where none is. */
  restId: string | null
  /** Colours of noteheads whose voice is shown, by note. */
  tints: ReadonlyMap<number, string> | null
  onPick: (noteId: number, how: Picking) => void
  onPickRest: (rest: Extract<ChosenOnPage, { readonly kind: 'rest' }>) => void
  onEngraved: (index: number, line: EngravedLine) => void
}) {
  const isInPage = levelPx === null
  const host = useRef<HTMLDivElement>(null)
  const page = useRef<HTMLDivElement>(null)
  const [isNear, setIsNear] = useState(false)
  const [line, setLine] = useState<EngravedLine | null>(null)
  const shownSvg = useRef('')

  useEffect(() => {
    const element = host.current
    if (!element) return
    const observer = new IntersectionObserver(([entry]) => setIsNear(entry!.isIntersecting), {
      // The page scrolls inside its own box: the margin counts only from there.
      root: element.closest('section'),
      rootMargin: '700px 1400px',
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [])

  // The fingerprint stands for everything that is written in this line.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new outline with the same fingerprint changes nothing here
  useEffect(() => {
    if (!isNear) return
    let isGone = false
    session.engraving.engrave(index).then(
      (result) => {
        if (isGone || shownSvg.current === result.svg) return
        void turnToShow().then(() => {
          if (isGone) return
          shownSvg.current = result.svg
          setLine(result)
          onEngraved(index, result)
        })
      },
      (error) =>
        session.notify(
          `A line of the page could not be engraved: ${error instanceof Error ? error.message : error}`,
          true,
        ),
    )
    return () => {
      isGone = true
    }
  }, [session, index, isNear, system.fingerprint, outline.revision, onEngraved])

  useLayoutEffect(() => {
    if (page.current && line) page.current.innerHTML = line.svg
  }, [line])

  useLayoutEffect(() => {
    const element = page.current
    if (!element || !line) return
    for (const old of element.querySelectorAll<SVGElement>('.is-coloured')) colour(old, null)
    for (const old of element.querySelectorAll('.is-selected')) old.classList.remove('is-selected')
    if (tints)
      for (const note of element.querySelectorAll<SVGElement>('g.note')) {
        const noteId = noteIdOfElement(note.id)
        const tint = noteId === undefined ? undefined : tints.get(noteId)
        if (tint) colour(note, tint)
      }
    const mark = (chosen: SVGElement) => {
      colour(chosen, '#C92A14')
      chosen.classList.add('is-selected')
    }
    if (restId !== null)
      for (const rest of element.querySelectorAll<SVGElement>(`[id="${restId}"]`)) mark(rest)
    if (selected.size === 0) return
    for (const note of element.querySelectorAll<SVGElement>('g.note')) {
      const noteId = noteIdOfElement(note.id)
      if (noteId !== undefined && selected.has(noteId)) mark(note)
    }
  }, [line, selected, restId, tints])

  return (
    <div
      ref={host}
      data-system={index}
      className="relative"
      style={{
        minHeight: line ? line.heightPx : estimatedHeight,
        paddingLeft: isInPage || index === 0 ? marginWidth : 0,
        minWidth: isInPage ? undefined : (line?.widthPx ?? estimatedStretchPx),
        marginTop: isInPage ? undefined : Math.max(0, levelPx - (line?.staves[0]?.topPx ?? 0)),
      }}
    >
      {line &&
        (isInPage || index === 0) &&
        marginMarks(line, outline).map((mark) => (
          <div
            key={`${mark.name} ${mark.top}`}
            className="absolute left-0 w-[5px] rounded-full"
            style={{ top: mark.top, height: mark.height, background: mark.colour }}
            title={mark.name}
          />
        ))}
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the same notes are reached by key in the list of the track */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: a drawing whose noteheads can be pressed */}
      <div
        ref={page}
        className="engraved"
        // Thousands of shapes that are out of sight are not laid out.
        style={{
          contentVisibility: 'auto',
          containIntrinsicHeight: line?.heightPx ?? estimatedHeight,
          // Words and slurs may reach beyond the line.
          overflowClipMargin: 80,
        }}
        onDoubleClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect()
          const from = outline.measures[system.from]!.startTicks
          const at = line?.moments.findLast(({ xPx }) => xPx <= event.clientX - box.left + reachPx)
          void session.play(at?.ticks ?? from, null)
        }}
        onClick={(event) => {
          const found = placeNear(event.clientX, event.clientY)
          if (found === undefined) return
          if (typeof found === 'number')
            onPick(found, event.shiftKey ? 'through' : event.ctrlKey || event.metaKey ? 'also' : 'alone')
          else {
            const trackId = outline.parts[found.partIndex]?.trackId
            if (trackId !== undefined)
              onPickRest({ kind: 'rest', partId: trackId, voice: found.voice, tick: found.tick })
          }
        }}
      />
    </div>
  )
})

/** A mark for each part, from its first staff to its last, in the thread colour of whoever plays it. */
function marginMarks(line: EngravedLine, outline: ScoreOutline) {
  let staff = 0
  return line.parts.flatMap((index) => {
    const part = outline.parts[index]
    if (!part) return []
    const first = line.staves[staff]
    staff += part.clefs.length
    const last = line.staves[staff - 1]
    if (!first || !last) return []
    return [
      {
        top: first.topPx,
        height: last.bottomPx - first.topPx,
        colour: threadOf(part.thread).colour,
        name: part.name,
      },
    ]
  })
}

/** How far from a notehead a press still means it. */
const reachPx = 8

/** The performed note whose notehead is under the pointer, or nearly, or the rest there. */
function placeNear(x: number, y: number): number | ReturnType<typeof restOfElement> {
  for (const reach of [0, reachPx / 2, reachPx])
    for (const [dx, dy] of [
      [0, 0],
      [0, 1],
      [0, -1],
      [1, 0],
      [-1, 0],
      [1, 1],
      [1, -1],
      [-1, 1],
      [-1, -1],
    ] as const) {
      const under = document.elementFromPoint(x + dx * reach, y + dy * reach)
      const element = under?.closest('g.note, g.rest, g.mRest')
      if (!element) continue
      const place = noteIdOfElement(element.id) ?? restOfElement(element.id)
      if (place !== undefined) return place
    }
  return undefined
}
