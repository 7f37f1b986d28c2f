import { InputForwarder } from './inputForwarder'

const event = (data1: number) => ({ portId: 'A', timeMs: data1, status: 0x90, data1, data2: 64 })
const wait = (forMs: number) => new Promise((resolve) => setTimeout(resolve, forMs))

test('a single event goes at once; a burst goes together, in its order, none lost', async () => {
  const sent: number[][] = []
  const forwarder = new InputForwarder((events) => sent.push(events.map((each) => each.data1)))
  forwarder.forward(event(1))
  expect(sent).toEqual([[1]])
  for (let key = 2; key < 100; key++) forwarder.forward(event(key))
  expect(sent).toEqual([[1]])
  await wait(30)
  expect(sent.flat()).toEqual(Array.from({ length: 99 }, (_, index) => index + 1))
  expect(sent.length).toBeLessThan(4)
  forwarder.forward(event(100))
  expect(sent.at(-1)).toEqual([100])
  forwarder.forward(event(101))
  forwarder.close()
  expect(sent.at(-1)).toEqual([101])
})
