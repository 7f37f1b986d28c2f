import { createDemo } from '@/core/demo/harbourEvening'
import { packNotes } from '@/core/event/noteColumns'
import { verovioToolkit } from '@/core/formats/verovioReader.testing'
import { headOf } from '@/core/project/content'
import { soundingNotes } from '@/core/project/create'
import { controlsOf } from '@/core/project/onPage'
import { Engraver } from './engraver'
import { lighten } from './lighten'

/** Every line of music of the demo, as the engraver gave it and as it is drawn. */
async function engravedLines(): Promise<{ given: string; drawn: string }[]> {
  const toolkit = await verovioToolkit()
  let given = ''
  const engraver = new Engraver({
    setOptions: (options: Record<string, unknown>) => toolkit.setOptions(options),
    loadData: (data: string) => toolkit.loadData(data),
    renderToSVG: (page: number) => {
      given = toolkit.renderToSVG(page)
      return given
    },
    getMEI: () => toolkit.getMEI(),
  })
  const demo = createDemo('demo', 0, 'computer-keyboard').project
  const tracks = demo.tracks.map((track) => ({
    trackId: track.id,
    notes: packNotes(soundingNotes(track)),
    controls: controlsOf(track),
    manuscript: null,
  }))
  return engraver
    .update(headOf(demo), tracks, { widthPx: 740, zoomPercent: 100, form: 'lines' })
    .systems.map((_, index) => ({ drawn: engraver.engrave(index).svg, given }))
}

/** Everything that is drawn, each stroke and shape with its place, in no order. */
function shapesIn(svg: string): string[] {
  const outlines = new Map(
    [...svg.matchAll(/<g id="([^"]+)">\s*<path transform="scale\(1,-1\)" d="([^"]*)"/g)].map(
      ([, id, outline]) => [id!, outline!],
    ),
  )
  const body = svg.replace(/<defs>[\s\S]*<\/defs>/, '')
  const used = [
    ...body.matchAll(/<use href="#([^"]+)" transform="(translate\([^)]*\)) scale\(([\d.]+), ([\d.]+)\)"/g),
  ].map(([, id, place, x, y]) => `${place} scale(${x}, -${y}) ${outlines.get(id!)}`)
  const paths = [...body.matchAll(/<path([^>]*?)\/>/g)].flatMap(([, attributes]) => {
    const of = (name: string) => new RegExp(` ${name}="([^"]*)"`).exec(attributes!)?.[1]
    const [transform, d] = [of('transform'), of('d')!]
    if (transform) return [`${transform} ${d}`]
    const strokes = / [LM]/.test(d) && !/[CZ]/.test(d) ? d.split(/ (?=M)/) : [d]
    return strokes.map((stroke) => `${stroke} ${of('stroke-width')}`)
  })
  const rest = [...body.matchAll(/<(?:ellipse|polygon|polyline|rect|tspan|text)\b[^>]*>/g)].map(
    ([all]) => all,
  )
  return [...used, ...paths, ...rest].sort()
}

const elementsIn = (svg: string) => [...svg.matchAll(/<[a-z]/g)].length
const notesIn = (svg: string) => [...svg.matchAll(/<g id="(n\d[^"]*)" class="note"/g)].map(([, id]) => id)

describe('a lighter drawing', () => {
  let lines: Awaited<ReturnType<typeof engravedLines>>
  beforeAll(async () => {
    lines = await engravedLines()
  })

  test('draws the same shapes at the same places', () => {
    expect(lines.length).toBeGreaterThan(2)
    for (const { given } of lines) {
      const shapes = shapesIn(given)
      expect(shapes.length).toBeGreaterThan(50)
      expect(shapesIn(lighten(given))).toEqual(shapes)
    }
  })

  test('keeps every note by its name, and a notehead in each', () => {
    for (const { given, drawn } of lines) {
      expect(notesIn(drawn)).toEqual(notesIn(given))
      expect(drawn.match(/class="notehead"/g)).toHaveLength(notesIn(given).length)
    }
  })

  test('needs far fewer elements, and no references', () => {
    for (const { given, drawn } of lines) {
      expect(drawn).not.toMatch(/<use|<defs|<g [^>]*\/>/)
      expect(elementsIn(drawn)).toBeLessThan(0.65 * elementsIn(given))
    }
  })

  test('leaves words as they are, and closes every group', () => {
    for (const { given, drawn } of lines) {
      const words = (svg: string) => [...svg.matchAll(/<text[\s\S]*?<\/text>/g)].map(([all]) => all)
      expect(words(drawn)).toEqual(words(given))
      expect(drawn.match(/<g[ >]/g)).toHaveLength(drawn.match(/<\/g>/g)!.length)
    }
  })

  test('what is light already is left alone', () => {
    for (const { drawn } of lines) expect(lighten(drawn)).toBe(drawn)
  })
})
