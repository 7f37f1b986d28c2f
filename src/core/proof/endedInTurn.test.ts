import { endedInTurn } from './proveMusicXml'

test('of two notes of one key that overlap, the one that began first ends first; others stay as they are', () => {
  const notes = [
    { key: 60, onsetTicks: 0, durationTicks: 40 },
    { key: 60, onsetTicks: 10, durationTicks: 10 },
    { key: 62, onsetTicks: 5, durationTicks: 100 },
    { key: 60, onsetTicks: 50, durationTicks: 5 },
  ]
  expect(endedInTurn(notes)).toEqual([
    { key: 60, onsetTicks: 0, durationTicks: 20 },
    { key: 60, onsetTicks: 10, durationTicks: 30 },
    { key: 60, onsetTicks: 50, durationTicks: 5 },
    { key: 62, onsetTicks: 5, durationTicks: 100 },
  ])
})
