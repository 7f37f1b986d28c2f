import fc from 'fast-check'
import { mostPlayedBars, playingOrder } from './playingOrder'
import { type BarFlow, plainFlow } from './writtenMusic'

/**
 * Bars as a player reads them: `|:` and `:|` repeats, `:|3` three times, `[1` and `[1,2` endings (to the next sign that ends them), `]`
 * the end of the last one, `S` segno, `O` coda, `@` to the coda, `F` fine, `DC`, `DS`.
 */
function bars(text: string): BarFlow[] {
  return text.split(' ').map((bar) => {
    const times = /:\|(\d*)/.exec(bar)
    const ending = /\[([\d,]+)/.exec(bar)
    return {
      ...plainFlow,
      repeatStarts: bar.includes('|:'),
      repeatTimes: times ? Number(times[1] || 2) : 0,
      endingStarts: ending ? ending[1]!.split(',').map(Number) : null,
      endingStops: bar.includes(']'),
      segno: /S(?!\w)/.test(bar.replace('DS', '')),
      coda: bar.includes('O'),
      toCoda: bar.includes('@'),
      fine: bar.includes('F'),
      jump: bar.includes('DC') ? 'da capo' : bar.includes('DS') ? 'dal segno' : null,
    }
  })
}
/** Counted from 1, as players do. */
const played = (text: string) => playingOrder(bars(text)).map((bar) => bar + 1)

// Expected orders worked out by hand from MusicXML 4.0 (repeat, ending, sound) and Gould, Behind Bars, "Repeats".
describe('the order in which bars are played', () => {
  test('nothing is repeated where nothing says so', () => expect(played('. . .')).toEqual([1, 2, 3]))
  test('from the beginning of the piece where no repeat begins', () =>
    expect(played('. . :| .')).toEqual([1, 2, 3, 1, 2, 3, 4]))
  test('from where a repeat begins', () => expect(played('. |: :| .')).toEqual([1, 2, 3, 2, 3, 4]))
  test('two passages one after the other', () =>
    expect(played('. :| . :|')).toEqual([1, 2, 1, 2, 3, 4, 3, 4]))
  test('three times', () => expect(played('|: :|3 .')).toEqual([1, 2, 1, 2, 1, 2, 3]))
  test('a first and a second ending', () => expect(played('. . [1:| [2] .')).toEqual([1, 2, 3, 1, 2, 4, 5]))
  test('one ending for two times, and a third', () =>
    expect(played('. [1,2:| [3] .')).toEqual([1, 2, 1, 2, 1, 3, 4]))
  test('three endings', () => expect(played('. [1:| [2:| [3] .')).toEqual([1, 2, 1, 3, 1, 4, 5]))
  test('endings, and another passage behind them with its own', () =>
    expect(played('. [1:| [2] |: [1:| [2]')).toEqual([1, 2, 1, 3, 4, 5, 4, 6]))
  test('endings, and a passage behind them whose beginning is not said', () =>
    expect(played('. [1:| [2] . :|')).toEqual([1, 2, 1, 3, 4, 5, 4, 5]))
  test('da capo al fine, without repeats the second time', () =>
    expect(played('. :|F . DC')).toEqual([1, 2, 1, 2, 3, 4, 1, 2]))
  test('dal segno al coda', () => expect(played('. S .@ . DS O .')).toEqual([1, 2, 3, 4, 5, 2, 3, 6, 7]))
  test('after a jump the last ending is played', () =>
    expect(played('. [1:| [2]F . DC')).toEqual([1, 2, 1, 3, 4, 5, 1, 3]))
  test('whatever is written comes to an end, and begins with the first bar', () => {
    const flow = fc.record<BarFlow>({
      repeatStarts: fc.boolean(),
      repeatTimes: fc.constantFrom(0, 0, 2, 3, 32),
      endingStarts: fc.constantFrom(null, null, [1], [2], [1, 2], [3]),
      endingStops: fc.boolean(),
      segno: fc.boolean(),
      coda: fc.boolean(),
      fine: fc.boolean(),
      toCoda: fc.boolean(),
      jump: fc.constantFrom(null, null, 'da capo' as const, 'dal segno' as const),
    })
    fc.assert(
      fc.property(fc.array(flow, { minLength: 1, maxLength: 30 }), (all) => {
        const order = playingOrder(all)
        expect(order.length).toBeLessThanOrEqual(mostPlayedBars)
        for (const bar of order) expect(all[bar]).toBeDefined()
      }),
    )
  })
})
