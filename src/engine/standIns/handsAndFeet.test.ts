import { HandsAndFeet } from './handsAndFeet'

test('what is held is let go of once: keys, pedal, bend and pressure of each channel, and nothing else', () => {
  const player = new HandsAndFeet()
  for (const bytes of [
    [0x90, 60, 80],
    [0x90, 64, 80],
    [0x80, 60, 64],
    [0x91, 67, 80],
    [0x91, 67, 0],
    [0xb0, 64, 127],
    [0xb1, 64, 127],
    [0xb1, 64, 0],
    [0xe1, 0, 70],
    [0xd1, 90],
    [0xc0, 5],
  ])
    player.follow(bytes)
  expect(player.lift()).toEqual([
    [0x80, 64, 64],
    [0xb0, 64, 0],
    [0xe1, 0, 64],
    [0xd1, 0],
  ])
  expect(player.lift()).toEqual([])
})
