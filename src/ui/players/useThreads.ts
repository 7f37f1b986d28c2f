import { useEffect, useLayoutEffect, useRef } from 'react'
import { activeSlots } from '@/core/effects/catalogue'
import { hasEffects } from '@/core/project/printing'
import type { Project } from '@/core/project/schema'
import { tracksOf } from '@/core/wiring/reaching'
import { threadOf } from '../theme/threads'
import { drawWhileMoving } from '../workspace/frames'
import { useSession } from '../workspace/sessionContext'
import { type Bead, drawThreads, type ThreadPath } from './drawThreads'

/** Whoever asked for less motion sees a note as a light at the track's end, and nothing run. */
const isMotionReduced = () => matchMedia('(prefers-reduced-motion: reduce)').matches

function effectsInWords(track: Project['tracks'][number]): string | null {
  const count = hasEffects(track) ? activeSlots(track.effects).length : 0
  return count === 0 ? null : `${count} ${count === 1 ? 'effect' : 'effects'}`
}

/** Draws the threads and lets a bead run along one for each note that sounds. */
export function useThreads(
  stage: React.RefObject<HTMLDivElement | null>,
  canvas: React.RefObject<HTMLCanvasElement | null>,
  project: Project,
): void {
  const session = useSession()
  const beads = useRef<Bead[]>([])
  const paths = useRef<ThreadPath[]>([])
  const drawn = useRef<ThreadPath[] | null>(null)
  const wake = useRef(() => {})

  useLayoutEffect(() => {
    const element = stage.current
    if (!element) return
    const measure = () => {
      const origin = element.getBoundingClientRect()
      paths.current = []
      for (const source of project.sources) {
        // A player in a folded group sends from the group's line.
        const from = (
          element.querySelector(`[data-source="${CSS.escape(source.id)}"]`) ??
          element.querySelector(`[data-group="${CSS.escape(source.group)}"]`)
        )?.getBoundingClientRect()
        if (!from) continue
        const listeners = tracksOf(project, source)
        const start = {
          x: from.right - origin.left,
          y: from.top + Math.min(from.height / 2, 32) - origin.top,
        }
        for (const track of listeners) {
          const to = element.querySelector(`[data-track="${CSS.escape(track.id)}"]`)?.getBoundingClientRect()
          if (to)
            paths.current.push({
              sourceId: source.id,
              trackId: track.id,
              thread: threadOf(track.thread),
              start,
              end: { x: to.left - origin.left, y: to.top + Math.min(to.height / 2, 32) - origin.top },
              isBroken: false,
              label: effectsInWords(track),
            })
        }
        if (listeners.length === 0)
          paths.current.push({
            sourceId: source.id,
            trackId: '',
            thread: threadOf(7),
            start,
            end: { x: start.x + (origin.width - 580) * 0.6, y: start.y },
            isBroken: true,
            label: null,
          })
      }
    }
    measure()
    wake.current()
    const observer = new ResizeObserver(() => {
      measure()
      wake.current()
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [project, stage])

  useEffect(() => {
    const stop = session.onActivity((events) => {
      for (const event of events) {
        if (!event.isOn) continue
        const source = session.store
          .getState()
          .project.sources.find(
            (candidate) =>
              candidate.address.portId === event.portId &&
              (candidate.address.channel ?? event.channel) === event.channel,
          )
        if (!source) continue
        for (const path of paths.current)
          if (path.sourceId === source.id)
            beads.current.push({ path, bornMs: performance.now(), size: 3 + event.velocity / 40 })
      }
      frames.wake()
    })
    const frames = drawWhileMoving(session, () => {
      const element = canvas.current
      const host = stage.current
      if (element && host) {
        const hadBeads = beads.current.length > 0
        beads.current = beads.current.filter((bead) => performance.now() - bead.bornMs < 900)
        const isStill =
          !hadBeads && drawn.current === paths.current && element.clientWidth === host.clientWidth
        if (!isStill) {
          drawn.current = paths.current
          drawThreads(
            element,
            host.clientWidth,
            host.clientHeight,
            paths.current,
            beads.current,
            isMotionReduced(),
          )
        }
      }
      return beads.current.length > 0
    })
    wake.current = frames.wake
    return () => {
      stop()
      frames.end()
    }
  }, [session, canvas, stage])
}
