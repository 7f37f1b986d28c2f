import { newSlot } from '@/core/effects/catalogue'
import { setEffects } from '@/core/project/commands'
import { emptyProject, newTrack } from '@/core/project/create'
import { addGenerator, changeGenerator } from '@/core/project/generatorCommands'
import { throwAnew, throwForStart } from './throws'

const die = { seed: 1, isSeedKept: false, earlierSeeds: [] as readonly number[] }

test('another throw puts the one before among the earlier ones; going back leaves each of them once', () => {
  const second = throwAnew(die, 2)
  const third = throwAnew(second, 3)
  expect(third).toEqual({ seed: 3, isSeedKept: false, earlierSeeds: [1, 2] })
  expect(throwAnew(third, 1)).toEqual({ seed: 1, isSeedKept: false, earlierSeeds: [2, 3] })
  let many = die
  for (let seed = 2; seed < 200; seed++) many = throwAnew(many, seed)
  expect(many.earlierSeeds).toHaveLength(50)
  expect(many.earlierSeeds.at(-1)).toBe(198)
})

test('a start throws what plays by chance, is on and is not kept; all else is the same object', () => {
  const { project: empty, track } = newTrack(emptyProject('p', 'Piece', 0), {
    name: 'Lute',
    instrument: { kind: 'program', program: 24 },
  })
  const loose = (slot: ReturnType<typeof newSlot>) => ({ ...slot, isSeedKept: false })
  const project = setEffects(empty, track.id, [
    loose(newSlot('chancePitch', 'thrown', {}, 7)),
    newSlot('chancePitch', 'kept', {}, 8),
    { ...loose(newSlot('chancePitch', 'off', {}, 9)), isOn: false },
    loose(newSlot('transpose', 'sure', {}, 10)),
  ])
  const before = project.tracks[0]!.effects
  const after = throwForStart(project).tracks[0]!.effects
  expect(after.map((slot, index) => slot === before[index])).toEqual([false, true, true, true])
  expect(after[0]!.earlierSeeds).toEqual([7])
  // Where nothing is thrown, nothing is new.
  const kept = setEffects(project, track.id, before.slice(1))
  expect(throwForStart(kept)).toBe(kept)
})

test('generators are thrown while they play along; a piece without chance is not touched', () => {
  const { project, generator } = addGenerator(emptyProject('p', 'Piece', 0), 'lanes')
  expect(throwForStart(project)).toBe(project)
  const loose = changeGenerator(project, generator.id, (old) => ({ ...old, isSeedKept: false }))
  expect(throwForStart(loose).generators[0]!.earlierSeeds).toEqual([generator.seed])
  const resting = changeGenerator(loose, generator.id, (old) => ({ ...old, isPlaying: false }))
  expect(throwForStart(resting)).toBe(resting)
})
