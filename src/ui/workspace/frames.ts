import type { Session } from '@/state/session'

/** Draws frame by frame as long as something moves; at rest nothing is drawn, and no frame is asked for. */
export interface Frames {
  /** Something else that is drawn may have changed: one frame, and more if it moves. */
  wake(): void
  end(): void
}

/**
 * Draws on every frame while the piece runs, and once when the state of what is played has changed.
 *
 * @param draw returns true while it has more to draw by itself
 */
export function drawWhileMoving(session: Session, draw: () => unknown): Frames {
  let frame = 0
  const isRunning = () => {
    const { state } = session.live.getState().transport
    return state === 'playing' || state === 'recording'
  }
  const wake = () => {
    if (frame === 0) frame = requestAnimationFrame(step)
  }
  function step(): void {
    frame = 0
    const goesOn = draw() === true
    if (goesOn || isRunning()) wake()
  }
  const unsubscribe = session.live.subscribe(wake)
  wake()
  return {
    wake,
    end() {
      unsubscribe()
      cancelAnimationFrame(frame)
    },
  }
}
