import fc from 'fast-check'
import { inPlace } from './inPlace'

/** Where a path of lines goes, point by point. */
function pointsOf(path: string): [number, number][] {
  const points: [number, number][] = []
  let [x, y] = [0, 0]
  for (const [, command, text] of path.matchAll(/([a-zA-Z])([^a-zA-Z]*)/g)) {
    const n = text!.match(/-?\d*\.?\d+/g)?.map(Number) ?? []
    if (command === 'M') [x, y] = [n[0]!, n[1]!]
    if (command === 'l') [x, y] = [x + n[0]!, y + n[1]!]
    if (command === 'h') x += n[0]!
    if (command === 'v') y += n[0]!
    points.push([x, y])
  }
  return points
}

test('a sign that is drawn where it stands goes through the same points', () => {
  const step = fc.oneof(
    fc
      .tuple(fc.integer({ min: -500, max: 500 }), fc.integer({ min: -500, max: 500 }))
      .map(([a, b]) => `l${a} ${b}`),
    fc.integer({ min: -500, max: 500 }).map((a) => `h${a}`),
    fc.integer({ min: -500, max: 500 }).map((a) => `v${a}`),
  )
  fc.assert(
    fc.property(
      fc.integer({ min: -9000, max: 9000 }),
      fc.integer({ min: -9000, max: 9000 }),
      fc.constantFrom(0.72, 0.5, 1),
      fc.array(step, { minLength: 1, maxLength: 12 }),
      (x, y, scale, steps) => {
        const outline = `M40 -12${steps.join('')}z M-7 3${steps.join('')}z`
        const drawn = inPlace(
          `<g id="n1" class="note"><path class="notehead" transform="translate(${x}, ${y}) scale(${scale}, ${-scale})" d="${outline}" /></g>`,
        )
        expect(drawn).not.toContain('transform')
        expect(drawn).toMatch(/^<g id="n1" class="note"><path class="notehead" d="/)
        const points = pointsOf(/ d="([^"]*)"/.exec(drawn)![1]!)
        for (const [index, [atX, atY]] of pointsOf(outline).entries()) {
          expect(Math.abs(points[index]![0] - (x + atX * scale))).toBeLessThan(1)
          expect(Math.abs(points[index]![1] - (y - atY * scale))).toBeLessThan(1)
        }
      },
    ),
  )
})

test('what no outline of the music font has is not drawn wrongly, but said', () => {
  const arc = '<path transform="translate(0, 0) scale(1, -1)" d="M0 0a5 5 0 0 1 3 3z" />'
  expect(() => inPlace(arc)).toThrow('“a”')
})
