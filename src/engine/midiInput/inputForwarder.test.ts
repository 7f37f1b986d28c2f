import { InputForwarder } from './inputForwarder'

const event = (data1: number) => ({ portId: 'A', timeMs: data1, status: 0x90, data1, data2: 64 })

/** A forwarder on a thread whose clock and queue are moved by hand. */
function workshop() {
  const sent: number[][] = []
  let nowMs = 0
  let queue: (() => void)[] = []
  let isOpen = true
  const forwarder = new InputForwarder((events) => sent.push(events.map((each) => each.data1)), {
    nowMs: () => nowMs,
    later: (work) => void queue.push(work),
    close: () => {
      isOpen = false
    },
  })
  return {
    forwarder,
    sent,
    wait(forMs: number) {
      nowMs += forMs
      const due = queue
      queue = []
      for (const work of due) work()
    },
    isOpen: () => isOpen,
  }
}

test('a single event goes at once; a burst goes together, in its order, none lost', () => {
  const { forwarder, sent, wait } = workshop()
  forwarder.forward(event(1))
  expect(sent).toEqual([[1]])
  for (let key = 2; key < 100; key++) forwarder.forward(event(key))
  expect(sent).toEqual([[1]])
  wait(30)
  expect(sent).toEqual([[1], Array.from({ length: 98 }, (_, index) => index + 2)])
  forwarder.forward(event(100))
  expect(sent.at(-1)).toEqual([100])
})

test('a very long burst goes in pieces', () => {
  const { forwarder, sent, wait } = workshop()
  for (let key = 0; key < 1000; key++) forwarder.forward(event(key))
  wait(1)
  expect(sent.flat()).toHaveLength(1000)
  expect(Math.max(...sent.map((piece) => piece.length))).toBe(200)
})

test('what is said after a flush comes after the notes; closing hands over what waits and leaves nothing open', () => {
  const { forwarder, sent, wait, isOpen } = workshop()
  wait(10)
  forwarder.forward(event(1))
  forwarder.forward(event(2))
  forwarder.flush()
  expect(sent).toEqual([[1], [2]])
  forwarder.forward(event(3))
  forwarder.close()
  expect(sent.flat()).toEqual([1, 2, 3])
  expect(isOpen()).toBe(false)
})
