import { HeldOnPorts } from './heldOnPorts'

test('what is still down is let go on its port and channel, once; a stroke without force is an end', () => {
  const held = new HeldOnPorts()
  for (const [portId, ...bytes] of [
    ['a', 0x90, 60, 80],
    ['a', 0x93, 60, 80],
    ['b', 0x90, 64, 80],
    ['a', 0x90, 60, 0],
    ['b', 0xb0, 64, 127],
    ['b', 0x90, 65, 1],
    ['b', 0x80, 64, 0],
  ] as const)
    held.follow({ portId, bytes })
  expect(held.letGo()).toEqual([
    { portId: 'a', bytes: [0x83, 60, 64] },
    { portId: 'b', bytes: [0x80, 65, 64] },
  ])
  expect(held.letGo()).toEqual([])
})
