import type { Thread } from '../theme/threads'
import { prepareCanvas } from '../tracks/canvas'

interface Point {
  readonly x: number
  readonly y: number
}

export interface ThreadPath {
  readonly sourceId: string
  readonly trackId: string
  readonly thread: Thread
  readonly start: Point
  readonly end: Point
  /** Reaches no track: the end is frayed. */
  readonly isBroken: boolean
  /** What the notes pass through on the way. */
  readonly label: string | null
}

export interface Bead {
  readonly path: ThreadPath
  readonly bornMs: number
  readonly size: number
}

const travelMs = 700

/**
 * Threads from sources to tracks with a bead for each note on its way.
 *
 * @param isStill beads do not run: they show at the end of their thread
 */
export function drawThreads(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
  paths: readonly ThreadPath[],
  beads: readonly Bead[],
  isStill: boolean,
): void {
  const context = prepareCanvas(canvas, width, height)
  context.lineCap = 'round'
  for (const path of paths) {
    context.strokeStyle = path.thread.colour
    context.lineWidth = 2.5
    context.setLineDash([...path.thread.dash])
    context.beginPath()
    const [a, b] = controls(path)
    context.moveTo(path.start.x, path.start.y)
    context.bezierCurveTo(a.x, a.y, b.x, b.y, path.end.x, path.end.y)
    context.stroke()
    context.setLineDash([])
    if (path.isBroken) fray(context, path)
    if (path.label) label(context, path, path.label)
  }
  for (const bead of beads) {
    const age = (performance.now() - bead.bornMs) / travelMs
    if (age < 0 || age > 1) continue
    const { x, y } = pointAt(bead.path, isStill ? 1 : age)
    context.fillStyle = bead.path.thread.colour
    context.beginPath()
    context.ellipse(x, y, bead.size * 1.25, bead.size * 0.9, -0.3, 0, Math.PI * 2)
    context.fill()
  }
}

function controls({ start, end }: ThreadPath): [Point, Point] {
  const reach = (end.x - start.x) * 0.45
  return [
    { x: start.x + reach, y: start.y },
    { x: end.x - reach, y: end.y },
  ]
}

function pointAt(path: ThreadPath, t: number): Point {
  const [a, b] = controls(path)
  const u = 1 - t
  const mix = (p: number, q: number, r: number, s: number) =>
    u * u * u * p + 3 * u * u * t * q + 3 * u * t * t * r + t * t * t * s
  return { x: mix(path.start.x, a.x, b.x, path.end.x), y: mix(path.start.y, a.y, b.y, path.end.y) }
}

function fray(context: CanvasRenderingContext2D, { end }: ThreadPath): void {
  context.lineWidth = 1.3
  for (const bend of [-10, -3, 5, 11]) {
    context.beginPath()
    context.moveTo(end.x, end.y)
    context.quadraticCurveTo(end.x + 10, end.y, end.x + 17, end.y + bend)
    context.stroke()
  }
}

function label(context: CanvasRenderingContext2D, path: ThreadPath, text: string): void {
  const { x, y } = pointAt(path, 0.5)
  context.font = '600 12px "Atkinson Hyperlegible Next Variable", sans-serif'
  const width = context.measureText(text).width + 20
  context.fillStyle = '#fffdf8'
  context.lineWidth = 1.5
  context.beginPath()
  context.roundRect(x - width / 2, y - 12, width, 24, 12)
  context.fill()
  context.stroke()
  context.fillStyle = '#1f2328'
  context.textAlign = 'center'
  context.textBaseline = 'middle'
  context.fillText(text, x, y + 0.5)
}
