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
    { portId: 'b', bytes: [0xb0, 64, 0] },
  ])
  expect(held.letGo()).toEqual([])
})

test('pedal, bend and pressure go back to rest after the keys, once; what a whole port is told is nobody’s', () => {
  const held = new HeldOnPorts()
  for (const bytes of [
    [0x90, 64, 80],
    [0xb0, 64, 127],
    [0xb1, 64, 127],
    [0xb1, 64, 0],
    [0xe1, 0, 70],
    [0xd1, 90],
    [0xc0, 5],
    [0xf8],
    [0xf2, 3, 4],
  ])
    held.follow({ portId: 'organ', bytes })
  held.follow({ portId: 'bells', bytes: [0xb0, 64, 127] })
  expect(held.letGo()).toEqual([
    { portId: 'organ', bytes: [0x80, 64, 64] },
    { portId: 'organ', bytes: [0xb0, 64, 0] },
    { portId: 'organ', bytes: [0xe1, 0, 64] },
    { portId: 'organ', bytes: [0xd1, 0] },
    { portId: 'bells', bytes: [0xb0, 64, 0] },
  ])
  expect(held.letGo()).toEqual([])
})
