import { memo, useEffect, useLayoutEffect, useRef, useState } from 'react'
import { noteIdOfElement } from '@/core/formats/musicXml'
import type { ScoreOutline } from '@/engine/engraver/engraver'
import type { Session } from '@/state/session'
import { threadOf } from '../theme/threads'

type System = ScoreOutline['systems'][number]

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
  selectedNoteId,
  onPick,
  onEngraved,
}: {
  session: Session
  outline: ScoreOutline
  system: System
  index: number
  estimatedHeight: number
  selectedNoteId: number | null
  onPick: (noteId: number) => void
  onEngraved: (index: number, heightPx: number) => void
}) {
  const host = useRef<HTMLDivElement>(null)
  const page = useRef<HTMLDivElement>(null)
  const [isNear, setIsNear] = useState(false)
  const [svg, setSvg] = useState<string | null>(null)
  const [marks, setMarks] = useState<{ top: number; height: number; colour: string; name: string }[]>([])

  useEffect(() => {
    const element = host.current
    if (!element) return
    const observer = new IntersectionObserver(([entry]) => setIsNear(entry!.isIntersecting), {
      // The page scrolls inside its own box: the margin counts only from there.
      root: element.closest('section'),
      rootMargin: '700px 0px',
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [])

  // The fingerprint stands for everything that is written in this line.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new outline with the same fingerprint changes nothing here
  useEffect(() => {
    if (!isNear) return
    let isGone = false
    session.engraver.engrave(index).then(
      (result) => {
        if (!isGone) setSvg(result.svg)
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
  }, [session, index, isNear, system.fingerprint, outline.revision])

  useLayoutEffect(() => {
    const element = page.current
    if (!element || svg === null) return
    element.innerHTML = svg
    const box = element.getBoundingClientRect()
    onEngraved(index, box.height)
    const staves = [...element.querySelectorAll('g.measure:first-of-type > g.staff, g.measure > g.staff')]
    const tops = new Map<string, { top: number; bottom: number }>()
    const firstMeasure = element.querySelector('g.measure')
    const firstStaves = firstMeasure ? [...firstMeasure.querySelectorAll(':scope > g.staff')] : staves
    let staffIndex = 0
    for (const part of outline.parts)
      for (let clef = 0; clef < part.clefs.length; clef++) {
        const lines = firstStaves[staffIndex++]?.querySelectorAll(':scope > path')
        if (!lines || lines.length === 0) continue
        const first = lines[0]!.getBoundingClientRect()
        const last = lines[lines.length - 1]!.getBoundingClientRect()
        const known = tops.get(part.trackId)
        tops.set(part.trackId, { top: known?.top ?? first.top - box.top, bottom: last.bottom - box.top })
      }
    setMarks(
      outline.parts.flatMap((part) => {
        const place = tops.get(part.trackId)
        return place
          ? [
              {
                top: place.top,
                height: place.bottom - place.top,
                colour: threadOf(part.thread).colour,
                name: part.name,
              },
            ]
          : []
      }),
    )
  }, [svg, index, onEngraved, outline.parts])

  useLayoutEffect(() => {
    const element = page.current
    if (!element || svg === null) return
    for (const old of element.querySelectorAll('.is-selected')) {
      old.classList.remove('is-selected')
      ;(old as SVGElement).style.fill = ''
      ;(old as SVGElement).style.stroke = ''
    }
    if (selectedNoteId === null) return
    for (const note of element.querySelectorAll(
      `[id="n${selectedNoteId}"], [id^="n${selectedNoteId}-at-"]`,
    )) {
      note.classList.add('is-selected')
      ;(note as SVGElement).style.fill = '#C92A14'
      ;(note as SVGElement).style.stroke = '#C92A14'
    }
  }, [svg, selectedNoteId])

  return (
    <div
      ref={host}
      data-system={index}
      className="relative"
      style={{ minHeight: svg === null ? estimatedHeight : undefined, paddingLeft: marginWidth }}
    >
      {marks.map((mark) => (
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
        onClick={(event) => {
          const note = (event.target as Element).closest('g.note')
          const noteId = note ? noteIdOfElement(note.id) : undefined
          if (noteId !== undefined) onPick(noteId)
        }}
      />
    </div>
  )
})
