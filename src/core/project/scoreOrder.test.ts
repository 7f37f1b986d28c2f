import fc from 'fast-check'
import { emptyProject, newTrack } from './create'
import type { Project } from './schema'
import { inScoreOrder, moveTrack } from './scoreOrder'

function tracksOf(...programs: readonly number[]): Project {
  let project = emptyProject('order', 'Order', 0)
  for (const [index, program] of programs.entries())
    project = newTrack(project, { name: `${index}`, instrument: { kind: 'program', program } }).project
  return project
}
const namesOf = ({ tracks }: Project) => tracks.map(({ name }) => name)

test('an orchestra from the flutes down to the basses, players of one instrument as they were', () => {
  const project = tracksOf(43, 40, 0, 73, 40, 60, 73)
  expect(namesOf(inScoreOrder(project))).toEqual(['3', '6', '5', '2', '1', '4', '0'])
  const ordered = inScoreOrder(project)
  expect(inScoreOrder(ordered)).toBe(ordered)
})

test('a track is moved up and down, and no track is lost', () => {
  const project = tracksOf(0, 1, 2, 3)
  const [first, , , last] = project.tracks
  expect(namesOf(moveTrack(project, first!.id, last!.id))).toEqual(['1', '2', '3', '0'])
  expect(namesOf(moveTrack(project, last!.id, first!.id))).toEqual(['3', '0', '1', '2'])
  expect(moveTrack(project, 'nobody', first!.id)).toBe(project)
  fc.assert(
    fc.property(fc.nat(3), fc.nat(3), (from, to) => {
      const moved = moveTrack(project, project.tracks[from]!.id, project.tracks[to]!.id)
      expect([...namesOf(moved)].sort()).toEqual(namesOf(project))
      expect(moved.tracks[to]).toBe(project.tracks[from])
    }),
  )
})
