import { joinTabs } from './allTabs'

/** Another tab. */
function tab(isRecording: boolean) {
  const state = { isRecording, stored: 0 }
  const tabs = joinTabs({
    isRecording: () => state.isRecording,
    storeEverything: async () => {
      state.stored++
    },
  })
  return { state, ...tabs }
}

test('a tab alone goes on', async () => {
  const own = tab(true)
  await own.ask(() => {
    throw new Error('nobody is there')
  })
  own.leave()
})

test('every other tab stores first, and one that records is waited for', async () => {
  const [own, idle, recording] = [tab(false), tab(false), tab(true)]
  const told: number[] = []
  let isDone = false
  const asked = own
    .ask((count) => told.push(count))
    .then(() => {
      isDone = true
    })
  await new Promise((resolve) => setTimeout(resolve, 1200))
  expect({ isDone, told: told.at(-1), stored: [idle.state.stored, recording.state.stored] }).toEqual({
    isDone: false,
    told: 1,
    stored: [1, 0],
  })
  recording.state.isRecording = false
  await asked
  expect(recording.state.stored).toBe(1)
  for (const each of [own, idle, recording]) each.leave()
})
