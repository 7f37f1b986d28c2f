import { createTurns } from './inTurn'

const soon = () => new Promise((resolve) => setTimeout(resolve, 5))

test('undo waits for the strokes before it, and is done at once where none is under way', async () => {
  const done: string[] = []
  const { inTurn, atOnce, isUnderWay } = createTurns(() => undefined)
  atOnce(() => done.push('at once'))
  expect(done).toEqual(['at once'])
  for (const stroke of ['staccato', 'accent', 'trill'])
    inTurn(async () => {
      await soon()
      done.push(stroke)
    })
  atOnce(() => done.splice(-1))
  expect(isUnderWay()).toBe(true)
  while (isUnderWay()) await soon()
  expect(done).toEqual(['at once', 'staccato', 'accent'])
})

test('what fails is told, and holds nothing up', async () => {
  const told: unknown[] = []
  const done: string[] = []
  const { inTurn, isUnderWay } = createTurns((error) => told.push(error))
  inTurn(() => {
    throw new Error('no room')
  })
  inTurn(() => {
    done.push('next')
  })
  while (isUnderWay()) await soon()
  expect([told, done]).toEqual([[new Error('no room')], ['next']])
})
