import { createDemo } from '@/core/demo/harbourEvening'
import { moveNotes } from '@/core/editing/notes'
import { packNotes } from '@/core/event/noteColumns'
import { verovioToolkit } from '@/core/formats/verovioReader.testing'
import { noControls } from '@/core/notation/playedControls'
import { changeNotes } from '@/core/project/commands'
import { headOf } from '@/core/project/content'
import { soundingNotes } from '@/core/project/create'
import { controlsOf } from '@/core/project/onPage'
import type { TakeWay } from '@/core/project/schema'
import type { EngravingToolkit } from './engraveLine'
import { Engraver } from './engraver'
import { fillLine, unknownSpacing } from './fillLine'
import { firstLiveNoteId } from './liveNoteIds'

const asUsual = { widthPx: 740, zoomPercent: 100, form: 'lines' } as const
const demo = createDemo('demo', 0, 'computer-keyboard').project
const changedOf = (project: typeof demo) =>
  project.tracks.map((track) => ({
    trackId: track.id,
    notes: packNotes(soundingNotes(track)),
    controls: controlsOf(track),
    manuscript: null,
  }))

/** Verovio in Node, the same library that runs in the engraver's worker, counting what it is asked to load. */
async function toolkit(): Promise<EngravingToolkit & { loads: number }> {
  const real = await verovioToolkit()
  const counted = {
    loads: 0,
    setOptions: (options: Record<string, unknown>) => real.setOptions(options),
    loadData: (data: string) => {
      counted.loads++
      return real.loadData(data)
    },
    renderToSVG: (page: number) => real.renderToSVG(page),
    getMEI: () => real.getMEI(),
  }
  return counted
}

describe('the engraver', () => {
  let engraver: Engraver
  let tools: Awaited<ReturnType<typeof toolkit>>

  beforeAll(async () => {
    tools = await toolkit()
    engraver = new Engraver(tools)
  })

  test('draws each line at the full width, with every note named after the performance', () => {
    const outline = engraver.update(headOf(demo), changedOf(demo), asUsual)
    expect(outline.measures).toHaveLength(16)
    expect(outline.ledger).toMatchObject({ captured: 255, written: 255 })
    const drawn = outline.systems.map((_, index) => engraver.engrave(index))
    const ids = drawn.flatMap((line) =>
      [...line.svg.matchAll(/<g id="n(\d+)" class="note"/g)].map((match) => Number(match[1])),
    )
    const played = demo.tracks.flatMap((track) => soundingNotes(track)).map((note) => note.id)
    expect(ids.sort((a, b) => a - b)).toEqual(played.sort((a, b) => a - b))
    for (const line of drawn.slice(0, -1)) expect(line.svg).toMatch(/^<svg width="740px"/)
  })

  test('says where staves and noteheads are', () => {
    const line = engraver.engrave(0)
    expect(line.staves).toHaveLength(4)
    for (const [index, staff] of line.staves.entries()) {
      expect(staff.bottomPx).toBeGreaterThan(staff.topPx)
      if (index > 0) expect(staff.topPx).toBeGreaterThan(line.staves[index - 1]!.bottomPx)
    }
    expect(line.moments[0]!.ticks).toBe(0)
    for (let i = 1; i < line.moments.length; i++) {
      expect(line.moments[i]!.ticks).toBeGreaterThan(line.moments[i - 1]!.ticks)
      expect(line.moments[i]!.xPx).toBeGreaterThan(line.moments[i - 1]!.xPx)
    }
    expect(line.moments.at(-1)!.xPx).toBeLessThan(740)
  })

  test('looked at larger, a line is drawn larger and its places are there', () => {
    engraver.update(headOf(demo), changedOf(demo), { ...asUsual, widthPx: 1480, zoomPercent: 200 })
    const before = tools.loads
    const large = engraver.engrave(0)
    engraver.update(headOf(demo), [], asUsual)
    const usual = engraver.engrave(0)
    expect(large.svg).toMatch(/^<svg width="1480px"/)
    expect(large.svg.replace(/^<svg [^>]*>/, '')).toBe(usual.svg.replace(/^<svg [^>]*>/, ''))
    for (const [index, { xPx }] of usual.moments.entries())
      expect(large.moments[index]!.xPx).toBeCloseTo(xPx * 2, 1)
    expect(large.staves[3]!.bottomPx).toBeCloseTo(usual.staves[3]!.bottomPx * 2, 1)
    // It is the same music in the same width for the engraver: drawn once.
    expect(tools.loads - before).toBeLessThanOrEqual(3)
  })

  test('an endless line has all notes in few stretches, as wide as their music, and clefs only where one begins', () => {
    const outline = engraver.update(headOf(demo), changedOf(demo), { ...asUsual, form: 'endless' })
    expect(outline.systems.length).toBeLessThan(4)
    const stretches = outline.systems.map((_, index) => engraver.engrave(index))
    const heads = stretches.flatMap(({ svg }) => [...svg.matchAll(/<g id="n\d+" class="note"/g)])
    expect(heads).toHaveLength(255)
    for (const { svg, widthPx, moments } of stretches) {
      expect(svg).toContain(`<svg width="${widthPx}px"`)
      expect(moments.at(-1)!.xPx).toBeLessThan(widthPx)
    }
  })

  test('an edit draws its own line anew and takes the others from the cache', () => {
    const outline = engraver.update(headOf(demo), [], asUsual)
    for (const index of outline.systems.keys()) engraver.engrave(index)
    const track = demo.tracks[0]!
    const first = soundingNotes(track)[0]!
    const edited = changeNotes(demo, track.id, (notes) => moveNotes(notes, new Set([first.id]), 0, 1))
    const next = engraver.update(
      headOf(edited),
      [
        {
          trackId: track.id,
          notes: packNotes(soundingNotes(edited.tracks[0]!)),
          controls: noControls,
          manuscript: null,
        },
      ],
      asUsual,
    )
    const before = tools.loads
    for (const index of next.systems.keys()) engraver.engrave(index)
    // One line changed; fitting its width may take a second try.
    expect(tools.loads - before).toBeGreaterThanOrEqual(1)
    expect(tools.loads - before).toBeLessThanOrEqual(3)
  })

  test('finds where a performed note is written', () => {
    engraver.update(headOf(demo), changedOf(demo), asUsual)
    const note = soundingNotes(demo.tracks[1]!)[0]!
    expect(engraver.locate({ kind: 'notes', noteIds: [note.id] })).toMatchObject({
      bar: 1,
      onsetTicks: 0,
      systemIndex: 0,
    })
    expect(engraver.locate({ kind: 'notes', noteIds: [999_999] })).toBeNull()
  })

  test('a tie over a line break is drawn on both sides, and nowhere else', () => {
    // The flute holds a note over the bar line after bar 10; lines this narrow break there.
    const outline = engraver.update(headOf(demo), changedOf(demo), { ...asUsual, widthPx: 300 })
    const at = outline.systems.findIndex((system) => system.from === 10)
    expect(at).toBeGreaterThan(0)
    const openTies = outline.systems.map((_, index) =>
      engraver.engrave(index).svg.includes('<g class="tie"><path d="M'),
    )
    expect(openTies.flatMap((isOpen, index) => (isOpen ? [index] : []))).toEqual([at - 1, at])
  })
})

describe('what is being played', () => {
  const quarter = 10_080
  const harp = demo.tracks[2]!
  const played = [0, 1, 2, 3].map((beat) => ({
    ...soundingNotes(harp)[0]!,
    id: firstLiveNoteId + beat,
    key: 79,
    onsetTicks: beat * quarter,
    durationTicks: quarter - 400,
  }))
  let engraver: Engraver

  beforeAll(async () => {
    engraver = new Engraver(await toolkit())
    engraver.update(headOf(demo), changedOf(demo), asUsual)
  })

  const lineOf = (way: TakeWay) =>
    engraver.live(
      headOf(demo),
      [{ trackId: harp.id, way, notes: packNotes(played), lowestKey: 79, highestKey: 79 }],
      { from: 0, to: 4 },
      asUsual,
    )!
  const staves = (svg: string) => svg.match(/class="staff"/g)!.length / svg.match(/class="measure"/g)!.length
  const newHeads = (svg: string) => svg.match(/class="note is-new"/g)!.length
  const oldHeads = (svg: string) => svg.match(/class="note"/g)?.length ?? 0

  test('as another take, it is by itself; over music, that music is there too, and what is new can be told', () => {
    const fresh = lineOf('fresh')
    expect([newHeads(fresh.svg), oldHeads(fresh.svg), fresh.isAllNew]).toEqual([4, 0, true])
    const layered = lineOf('layered')
    expect([newHeads(layered.svg), layered.isAllNew, staves(layered.svg)]).toEqual([4, false, 1])
    expect(oldHeads(layered.svg)).toBeGreaterThan(3)
  })

  test('as a voice, it is beside the other on one staff; as a staff, beneath it', () => {
    const voice = lineOf('voice')
    expect([newHeads(voice.svg), staves(voice.svg)]).toEqual([4, 1])
    expect(oldHeads(voice.svg)).toBe(oldHeads(lineOf('staff').svg))
    expect(staves(lineOf('staff').svg)).toBe(2)
  })
})

describe('filling a line', () => {
  /** What is drawn with a spacing, or spread to a width, without and with which it is tried. */
  function tried(naturalPx: (spacing: number) => number) {
    const draws: (number | null)[] = []
    const draw = (spacing: number, spreadToPx: number | null) => {
      draws.push(spreadToPx)
      return `<svg width="${spreadToPx ?? naturalPx(spacing)}px" height="100px"></svg>`
    }
    return { draws, draw }
  }
  const shape = (svg: string) =>
    /^<svg width="([\d.]+)px" height="([\d.]+)px" viewBox="0 0 ([\d.]+) ([\d.]+)"/
      .exec(svg)!
      .slice(1)
      .map(Number)

  test('finds a spacing for which the line nearly fits, and spreads its notes over the rest', () => {
    const { draws, draw } = tried((spacing) => 100 + spacing * 1500)
    const { svg, spacing } = fillLine(draw, 740, unknownSpacing)
    expect(shape(svg)).toEqual([740, 100, 740, 100])
    expect((100 + spacing * 1500) / 740).toBeLessThanOrEqual(1)
    expect((100 + spacing * 1500) / 740).toBeGreaterThan(0.84)
    expect(draws.length).toBeLessThanOrEqual(4)
    expect(draws.at(-1)).toBe(740)
  })

  test('a line that was found is drawn once', () => {
    const { draws, draw } = tried(() => 700)
    fillLine(draw, 740, { ...unknownSpacing, isFound: true })
    expect(draws).toEqual([740])
  })

  test('a line with too little music keeps the width of its music', () => {
    const { draws, draw } = tried(() => 400)
    expect(fillLine(draw, 740, unknownSpacing)).toMatchObject({ filling: 'ragged' })
    expect(shape(fillLine(draw, 740, unknownSpacing).svg)).toEqual([400, 100, 400, 100])
    expect(draws).not.toContain(740)
  })

  test('the last line is filled from two thirds on, and its notes are not moved apart for that', () => {
    const last = { ...unknownSpacing, isLast: true }
    const short = tried((spacing) => spacing * 1500)
    expect(fillLine(short.draw, 740, last)).toMatchObject({ filling: 'ragged', spacing: 0.3 })
    const long = tried((spacing) => spacing * 1800)
    expect(shape(fillLine(long.draw, 740, last).svg)[0]).toBe(740)
  })

  test('a line that finds no room is drawn smaller as a whole, also when it is drawn again', () => {
    const { draw } = tried(() => 1480)
    const { svg, ...found } = fillLine(draw, 740, unknownSpacing)
    expect(shape(svg)).toEqual([740, 50, 1480, 100])
    const again = fillLine(draw, 740, { ...unknownSpacing, ...found, isFound: true })
    expect(shape(again.svg)).toEqual([740, 50, 1480, 100])
  })
})

/** Width of noteheads by their height, on the screen, of each line: the shape of one head, the black one. */
describe('shapes are the same in every line', () => {
  /** How many pixels a unit of the drawing takes across and down. */
  const scales = (svg: string) => {
    const [, width, height, boxWidth, boxHeight] =
      /^<svg width="([\d.]+)px" height="([\d.]+)px" viewBox="0 0 ([\d.]+) ([\d.]+)"/.exec(svg)!.map(Number)
    expect(svg).not.toContain('preserveAspectRatio')
    const glyphs = [...svg.matchAll(/scale\((-?[\d.]+), (-?[\d.]+)\)/g)].map(
      ([, across, down]) => Math.abs(Number(across)) / Math.abs(Number(down)),
    )
    return { ratio: width! / boxWidth! / (height! / boxHeight!), glyphs }
  }

  test.each([
    ['a small window', 520, 100],
    ['a usual one', 903, 100],
    ['a large one, 1920 pixels', 1611, 100],
    ['enlarged', 903, 175],
    ['made smaller', 1611, 50],
  ])('in %s', async (_, widthPx, zoomPercent) => {
    const engraver = new Engraver(await toolkit())
    const outline = engraver.update(headOf(demo), changedOf(demo), { widthPx, zoomPercent, form: 'lines' })
    for (const index of outline.systems.keys()) {
      const line = engraver.engrave(index)
      const { ratio, glyphs } = scales(line.svg)
      expect(Math.abs(ratio - 1)).toBeLessThan(0.005)
      expect(glyphs.every((each) => Math.abs(each - 1) < 0.005)).toBe(true)
      expect(line.widthPx).toBeLessThanOrEqual(widthPx * 1.002)
      if (index < outline.systems.length - 1) expect(line.widthPx).toBeGreaterThan(widthPx * 0.998)
    }
  })
})
