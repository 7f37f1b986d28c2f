import { memo, useEffect, useLayoutEffect, useRef, useState } from 'react'
import type { ChosenOnPage } from '@/core/notation/amendments/stroke'
import { noteIdOfElement, restOfElement } from '@/core/notation/noteElements'
import type { EngravedLine, ScoreOutline } from '@/engine/engraver/engraver'
import type { Session } from '@/state/session'
import { threadOf } from '../theme/threads'
import { showInParts } from './showInParts'
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

/** What of a line is shown in a colour of its own. */
interface Colours {
  readonly selected: ReadonlySet<number>
  readonly restId: string | null
  readonly tints: ReadonlyMap<number, string> | null
}

/** Colours what is chosen, and voices. */
function colourIn(element: Element, { selected, restId, tints }: Colours): void {
  for (const old of element.querySelectorAll<SVGElement>('.is-coloured')) colour(old, null)
  for (const old of element.querySelectorAll('.is-selected')) old.classList.remove('is-selected')
  const mark = (chosen: SVGElement) => {
    colour(chosen, '#C92A14')
    chosen.classList.add('is-selected')
  }
  if (restId !== null) for (const rest of element.querySelectorAll<SVGElement>(`[id="${restId}"]`)) mark(rest)
  if (selected.size === 0 && !tints) return
  for (const note of element.querySelectorAll<SVGElement>('g.note')) {
    const noteId = noteIdOfElement(note.id)
    if (noteId === undefined) continue
    const tint = tints?.get(noteId)
    if (selected.has(noteId)) mark(note)
    else if (tint) colour(note, tint)
  }
}

/** Room at the left of a line for the marks that say who plays a staff. */
const marginWidth = 16

/**
 * One line of music. It is engraved when it comes near the window; until then, and when it is far away again, it only holds its place. Noteheads answer to
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
    // The page scrolls inside its own box: the margin counts only from there.
    const root = element.closest('section')
    const near = new IntersectionObserver(([entry]) => setIsNear(entry!.isIntersecting), {
      root,
      rootMargin: '700px 1400px',
    })
    const far = new IntersectionObserver(
      ([entry]) => {
        if (entry!.isIntersecting) return
        shownSvg.current = ''
        setLine(null)
      },
      { root, rootMargin: '2400px 4800px' },
    )
    near.observe(element)
    far.observe(element)
    return () => {
      near.disconnect()
      far.disconnect()
    }
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

  /** A line that was here keeps its room. */
  const last = useRef<EngravedLine | null>(null)
  if (line) last.current = line
  const size = last.current

  const colours = useRef<Colours>({ selected, restId, tints })
  colours.current = { selected, restId, tints }

  useLayoutEffect(() => {
    const element = page.current
    if (!element) return
    if (!line) {
      element.replaceChildren()
      delete element.dataset.whole
      return
    }
    // A line that is there already is replaced as a whole: nothing of it is away for a moment.
    if (!element.hasChildNodes())
      return showInParts(element, line.svg, (bar) => colourIn(bar, colours.current))
    element.innerHTML = line.svg
  }, [line])

  useLayoutEffect(() => {
    if (page.current && line) colourIn(page.current, { selected, restId, tints })
  }, [line, selected, restId, tints])

  return (
    <div
      ref={host}
      data-system={index}
      className="relative"
      style={{
        minHeight: size?.heightPx ?? estimatedHeight,
        paddingLeft: isInPage || index === 0 ? marginWidth : 0,
        minWidth: isInPage ? undefined : (size?.widthPx ?? estimatedStretchPx),
        marginTop: isInPage ? undefined : Math.max(0, levelPx - (size?.staves[0]?.topPx ?? 0)),
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
