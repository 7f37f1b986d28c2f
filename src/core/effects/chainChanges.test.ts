import { newSlot } from './catalogue'
import { withChange } from './chainChanges'

const up = (semitones: number) => [newSlot('transpose', 'a', { semitones })]

test('changes of one gesture are one, where it began; a later one is another', () => {
  const dragged = [
    [10_080, 1],
    [11_000, 2],
    [12_000.4, 3],
  ] as const
  const once = dragged.reduce(
    (changes, [tick, semitones]) => withChange(changes, tick, up(semitones)),
    withChange([], -500, up(0)),
  )
  expect(once).toEqual([
    { tick: 0, slots: up(0) },
    { tick: 10_080, slots: up(3) },
  ])
  expect(withChange(once, 20_160, up(5)).at(-1)).toEqual({ tick: 20_160, slots: up(5) })
})

test('back at an earlier place, as in a new turn of a loop, a change is one of its own', () => {
  const changes = withChange([{ tick: 10_080, slots: up(1) }], 10_000, up(2))
  expect(changes.map(({ tick }) => tick)).toEqual([10_080, 10_000])
})
