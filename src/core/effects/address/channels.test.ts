import { newSlot } from '../catalogue'
import { addressedChannels } from './channels'

const deal = (voices: number, first = 1) => newSlot('dealVoices', 'd', { voices, first })
const force = (channel: number) => newSlot('forceChannel', 'f', { channel })

test('the channels are those of the last effect that addresses notes and is at work', () => {
  expect(addressedChannels([])).toBeNull()
  expect(addressedChannels([newSlot('echo', 'e')])).toBeNull()
  expect(addressedChannels([deal(3, 5)])).toEqual([5, 6, 7])
  expect(addressedChannels([deal(3), force(9)])).toEqual([9])
  expect(addressedChannels([deal(3), { ...force(9), isOn: false }])).toEqual([1, 2, 3])
})

test('no voice lies beyond the last channel; an address that moves may be anywhere', () => {
  expect(addressedChannels([deal(3, 15)])).toEqual([15, 16])
  const movement = {
    setting: 'channel',
    shape: 'sine',
    periodQuarters: 4,
    from: 1,
    to: 4,
    points: [],
  } as const
  expect(addressedChannels([{ ...force(2), movements: [{ ...movement, points: [] }] }])).toHaveLength(16)
})
