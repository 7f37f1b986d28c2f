import type { Section } from '@/core/project/schema'
import type { MeterMap } from '@/core/time/meterMap'
import type { Stretch } from '@/core/time/timeSchemas'
import type { Ticks } from '@/core/time/units'
import { type TimeView, ticksAtX, xOf } from './timeView'

export const paperColours = {
  paper: '#FBF8F1',
  sheet: '#FFFDF8',
  desk: '#F3EEE2',
  rule: '#D9D0BD',
  fineRule: '#E9E2D2',
  ink: '#1F2328',
  soft: '#565B61',
  live: '#C92A14',
  weld: '#8A6500',
} as const

export const canvasFont = '"Atkinson Hyperlegible Next Variable", sans-serif'

/** Fits a canvas to its place on the screen, sharp on every display, and clears it. */
export function prepareCanvas(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
): CanvasRenderingContext2D {
  const ratio = window.devicePixelRatio || 1
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio)
    canvas.height = Math.round(height * ratio)
    canvas.style.width = `${width}px`
    canvas.style.height = `${height}px`
  }
  const context = canvas.getContext('2d')!
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  context.clearRect(0, 0, width, height)
  return context
}

/** Bar lines (and beats when there is room), with bar numbers in a strip of `rulerHeight` above. */
export function drawBars(
  context: CanvasRenderingContext2D,
  view: TimeView,
  meterMap: MeterMap,
  width: number,
  height: number,
  rulerHeight: number,
): void {
  const endTicks = ticksAtX(view, width)
  let measure = meterMap.measureAt(Math.max(0, view.startTicks))
  const barPixels = xOf(view, view.startTicks + measure.lengthTicks)
  const everyBars = 2 ** Math.max(0, Math.ceil(Math.log2(34 / Math.max(0.01, barPixels))))
  context.font = `11px ${canvasFont}`
  context.textBaseline = 'middle'
  context.textAlign = 'left'
  while (measure.startTicks <= endTicks) {
    const x = Math.round(xOf(view, measure.startTicks)) + 0.5
    if (measure.index % everyBars === 0) {
      context.strokeStyle = paperColours.rule
      context.beginPath()
      context.moveTo(x, rulerHeight - 6)
      context.lineTo(x, height)
      context.stroke()
      context.fillStyle = paperColours.soft
      if (rulerHeight > 0) context.fillText(String(measure.index + 1), x + 4, rulerHeight / 2)
    }
    const beats = measure.numerator
    const beatPixels = barPixels / beats
    if (beatPixels > 18) {
      context.strokeStyle = paperColours.fineRule
      context.beginPath()
      for (let beat = 1; beat < beats; beat++) {
        const beatX = Math.round(xOf(view, measure.startTicks + (measure.lengthTicks * beat) / beats)) + 0.5
        context.moveTo(beatX, rulerHeight)
        context.lineTo(beatX, height)
      }
      context.stroke()
    }
    measure = meterMap.measure(measure.index + (everyBars > 1 ? everyBars - (measure.index % everyBars) : 1))
  }
}

/** Names of sections, in the strip above the bars. */
export function drawSections(
  context: CanvasRenderingContext2D,
  view: TimeView,
  sections: readonly Section[],
  width: number,
  rulerHeight: number,
): void {
  context.font = `700 11px ${canvasFont}`
  context.textBaseline = 'middle'
  context.textAlign = 'left'
  for (const { tick, name } of sections) {
    // Beside the number of its bar.
    const x = Math.round(xOf(view, tick)) + 22
    if (x > width || x < -80) continue
    const shown = name.length > 18 ? `${name.slice(0, 17)}…` : name
    const boxWidth = context.measureText(shown).width + 10
    context.fillStyle = paperColours.sheet
    context.strokeStyle = paperColours.ink
    context.fillRect(x + 0.5, 4.5, boxWidth, rulerHeight - 9)
    context.strokeRect(x + 0.5, 4.5, boxWidth, rulerHeight - 9)
    context.fillStyle = paperColours.ink
    context.fillText(shown, x + 5, rulerHeight / 2 + 0.5)
  }
}

/** The marked stretch: a band in the ruler and edges down through the lanes; full while it is looped. */
export function drawStretch(
  context: CanvasRenderingContext2D,
  view: TimeView,
  stretch: Stretch,
  isLooping: boolean,
  height: number,
): void {
  const from = Math.round(xOf(view, stretch.startTicks))
  const to = Math.round(xOf(view, stretch.endTicks))
  context.fillStyle = isLooping ? paperColours.weld : paperColours.rule
  context.fillRect(from, 0, to - from, 5)
  context.fillStyle = 'rgba(138,101,0,0.06)'
  context.fillRect(from, 5, to - from, height)
  context.strokeStyle = paperColours.weld
  context.setLineDash([3, 3])
  context.beginPath()
  for (const x of [from + 0.5, to + 0.5]) {
    context.moveTo(x, 5)
    context.lineTo(x, height)
  }
  context.stroke()
  context.setLineDash([])
}

export function drawPlayhead(
  context: CanvasRenderingContext2D,
  view: TimeView,
  tick: Ticks,
  height: number,
): void {
  const x = Math.round(xOf(view, tick)) + 0.5
  if (x < -5) return
  context.strokeStyle = paperColours.live
  context.lineWidth = 1.5
  context.beginPath()
  context.moveTo(x, 8)
  context.lineTo(x, height)
  context.stroke()
  context.fillStyle = paperColours.live
  context.beginPath()
  context.moveTo(x - 5, 0)
  context.lineTo(x + 5, 0)
  context.lineTo(x, 8)
  context.fill()
}
