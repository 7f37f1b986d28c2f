import fc from 'fast-check'
import { KeyEvidence } from './keyEvidence'
import { frequencyOfKey, listenerSettingsOf } from './listenerSettings'

const settings = { ...listenerSettingsOf.guitar, concertHz: 440 }
const candidate = (place: number, probability: number) => ({
  frequencyHz: frequencyOfKey(place, 440),
  probability,
})

test('a pitch that is plain leads at once, whatever its key', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: settings.lowKey, max: settings.highKey }),
      fc.double({ min: -0.2, max: 0.2, noNaN: true }),
      (key, off) => {
        const evidence = new KeyEvidence(settings)
        evidence.add([candidate(key + off, 0.98)], 1)
        const { key: likeliest, lead } = evidence.likeliest()
        expect(likeliest).toBe(key)
        expect(lead).toBeGreaterThan(1)
      },
    ),
  )
})

test('two octaves that are as likely as each other are waited for', () => {
  const evidence = new KeyEvidence(settings)
  for (let window = 0; window < 20; window++) evidence.add([candidate(48, 0.5), candidate(60, 0.5)], 1)
  expect(evidence.likeliest().lead).toBeLessThan(0.1)
  for (let window = 0; window < 4; window++) evidence.add([candidate(60, 0.95)], 1)
  expect(evidence.likeliest()).toMatchObject({ key: 60 })
  expect(evidence.likeliest().lead).toBeGreaterThan(3)
})

test('while a key sounds, others count from where they begin to be likelier', () => {
  const evidence = new KeyEvidence(settings)
  for (let window = 0; window < 200; window++) {
    evidence.add([candidate(60, 0.98)], 1)
    evidence.against(60)
    expect(evidence.likeliest().lead).toBe(0)
  }
  for (let window = 0; window < 2; window++) {
    evidence.add([candidate(64, 0.98)], 1)
    evidence.against(60)
  }
  expect(evidence.likeliest().key).toBe(64)
  expect(evidence.likeliest().lead).toBeGreaterThan(5)
})

test('pitches beyond the range speak for no key', () => {
  const evidence = new KeyEvidence(settings)
  evidence.add([candidate(settings.highKey + 14, 0.98), candidate(settings.lowKey - 14, 0.98)], 1)
  expect(evidence.likeliest().lead).toBe(0)
})
