/**
 * The same drawing with its signs drawn where they stand: a shape that is moved by a transformation is, for the browser, a layer of its
 * own to be put together at each frame, and a line of music has hundreds.
 *
 * @param svg as `lighten` gives it: outlines of the music font, whose points are relative but for the first of each stroke
 */
export function inPlace(svg: string): string {
  return svg.replace(
    movedShape,
    (_, before: string, x: string, y: string, scaleX: string, scaleY: string, outline: string) =>
      `<path${before} d="${drawnAt(outline, Number(x), Number(y), Number(scaleX), Number(scaleY))}" />`,
  )
}

const movedShape =
  /<path((?: [\w-]+="[^"]*")*?) transform="translate\(([-\d.]+), ([-\d.]+)\) scale\(([-\d.]+), ([-\d.]+)\)" d="([^"]*)" \/>/g

/** A stroke of an outline: where it begins, and how it goes on from there. */
interface Stroke {
  readonly x: number
  readonly y: number
  readonly onwards: string
}

/** Outlines at a size: each sign is used over and over. */
const strokesOf = new Map<string, readonly Stroke[]>()
const mostKept = 2000

function drawnAt(outline: string, x: number, y: number, scaleX: number, scaleY: number): string {
  const address = `${scaleX} ${scaleY} ${outline}`
  let strokes = strokesOf.get(address)
  if (!strokes) {
    strokes = scaled(outline, scaleX, scaleY)
    if (strokesOf.size >= mostKept) strokesOf.clear()
    strokesOf.set(address, strokes)
  }
  return strokes.map((stroke) => `M${tenths(x + stroke.x)} ${tenths(y + stroke.y)}${stroke.onwards}`).join('')
}

/** Tenths of the engraver's units, of which a pixel has twenty-five. */
const tenths = (value: number) => Math.round(value * 10) / 10

/** @throws Error for a command that no outline of the music font has */
function scaled(outline: string, scaleX: number, scaleY: number): Stroke[] {
  return outline
    .split('M')
    .slice(1)
    .map((stroke) => {
      const [, x, y, rest] = /^\s*(-?[\d.]+)[\s,]*(-?[\d.]+)(.*)$/s.exec(stroke)!
      const onwards = rest!.replace(command, (_, letter: string, numbers: string) => {
        const values = numbers.match(/-?\d*\.?\d+/g)?.map(Number) ?? []
        const scale = scalesOf[letter]
        if (!scale) throw new Error(`An outline of the music font has the command “${letter}”`)
        return `${letter}${values.map((value, index) => tenths(value * scale(index, scaleX, scaleY))).join(' ')}`
      })
      return { x: Number(x) * scaleX, y: Number(y) * scaleY, onwards: onwards.trim() }
    })
}

const command = /([a-zA-Z])([^a-zA-Z]*)/g

type ScaleOf = (index: number, scaleX: number, scaleY: number) => number
const inPairs: ScaleOf = (index, scaleX, scaleY) => (index % 2 === 0 ? scaleX : scaleY)
const scalesOf: Readonly<Record<string, ScaleOf>> = {
  c: inPairs,
  s: inPairs,
  q: inPairs,
  t: inPairs,
  l: inPairs,
  m: inPairs,
  h: (_, scaleX) => scaleX,
  v: (_, _scaleX, scaleY) => scaleY,
  z: () => 1,
}
