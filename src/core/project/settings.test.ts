import { createDemo } from '../demo/harbourEvening'
import {
  acceptRemark,
  armEveryTrack,
  foldGroup,
  readCable,
  renameTake,
  setClock,
  setPiece,
  setReading,
  setRecording,
  setSource,
  setTrack,
} from './settings'

const { project } = createDemo('demo', 0, 'computer-keyboard')

test('a setting changes what it names and shares all else with the piece before', () => {
  const track = project.tracks[1]!
  const next = setTrack(project, track.id, { isMuted: true })
  expect(next.tracks[1]).toEqual({ ...track, isMuted: true })
  expect(next.tracks[1]!.clips).toBe(track.clips)
  expect(next.tracks[0]).toBe(project.tracks[0])
  const source = project.sources[0]!
  expect(setSource(project, source.id, { name: 'Jetty' }).sources.map(({ name }) => name)).toEqual([
    'Jetty',
    ...project.sources.slice(1).map(({ name }) => name),
  ])
  expect(setPiece(project, { name: 'Jetty' })).toEqual({ ...project, name: 'Jetty' })
  expect(setRecording(project, { isLooping: true }).recording).toEqual({
    ...project.recording,
    isLooping: true,
  })
  expect(setReading(project, { minVelocity: 0 }).scoreSettings.splitKey).toBe(project.scoreSettings.splitKey)
  expect(setClock(project, { follow: 'cable:Pier' }).clock).toEqual({
    ...project.clock,
    follow: 'cable:Pier',
  })
  const { serial } = project.takes[0]!
  expect(renameTake(project, serial, 'Dusk').takes[0]!.name).toBe('Dusk')
  expect(renameTake(project, 999, 'Dusk').takes).toEqual(project.takes)
  expect(
    armEveryTrack(setTrack(project, track.id, { isArmed: false })).tracks.every((each) => each.isArmed),
  ).toBe(true)
})

test('cables, folded groups and accepted remarks are in their lists once or not at all', () => {
  const read = readCable(readCable(project, 'Pier', true), 'Pier', true)
  expect(read.cables.filter((name) => name === 'Pier')).toHaveLength(1)
  expect(readCable(read, 'Pier', false).cables).toEqual(project.cables)
  expect(foldGroup(foldGroup(project, 'Strings', true), 'Strings', false).foldedGroups).toEqual(
    project.foldedGroups,
  )
  expect(acceptRemark(acceptRemark(project, 'x'), 'x').acceptedRemarks).toEqual([
    ...project.acceptedRemarks,
    'x',
  ])
})
