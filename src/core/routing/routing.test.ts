import { seatStandIns } from '../demo/harbourEvening'
import { changeTrack } from '../project/commands'
import { emptyProject } from '../project/create'
import { listenersOf, Router } from './route'
import { wiringRemarks } from './wiringRemarks'

const tracks = [
  { id: 'one', input: { portId: 'A', channel: 1 } },
  { id: 'two', input: { portId: 'A', channel: 2 } },
  { id: 'rest of A', input: { portId: 'A', channel: null } },
  { id: 'B', input: { portId: 'B', channel: null } },
  { id: 'deaf', input: null },
]

describe('routing', () => {
  test('a stream reaches exactly the track for its port and channel', () => {
    expect(listenersOf({ portId: 'A', channel: 1 }, tracks).map((track) => track.id)).toEqual(['one'])
    expect(listenersOf({ portId: 'A', channel: 2 }, tracks).map((track) => track.id)).toEqual(['two'])
  })

  test('a track for any channel takes only what no other track asks for', () => {
    expect(listenersOf({ portId: 'A', channel: 7 }, tracks).map((track) => track.id)).toEqual(['rest of A'])
    expect(listenersOf({ portId: 'B', channel: 1 }, tracks).map((track) => track.id)).toEqual(['B'])
  })

  test('the router answers the same, every time', () => {
    const router = new Router(tracks)
    for (const portId of ['A', 'B', 'C'])
      for (let channel = 1; channel <= 16; channel++)
        for (let again = 0; again < 2; again++)
          expect(router.listenersOf(portId, channel)).toEqual(listenersOf({ portId, channel }, tracks))
  })
})

describe('remarks on the wiring', () => {
  const project = seatStandIns(emptyProject('p', 'P', 0))

  test('none when everybody has a track', () => {
    expect(wiringRemarks(project)).toEqual([])
  })

  test.each([
    [
      'a source that reaches nothing',
      (channel: number) => ({ portId: 'stand-in-port', channel }),
      9,
      /reaches no track/,
    ],
    [
      'one player driving two tracks',
      (channel: number) => ({ portId: 'stand-in-port', channel }),
      2,
      /drives 2 tracks/,
    ],
  ])('%s is said, and the fix mends it', (_, address, channel, expected) => {
    const broken = changeTrack(project, project.tracks[0]!.id, (track) => ({
      ...track,
      input: address(channel),
    }))
    const remark = wiringRemarks(broken).find((candidate) => expected.test(candidate.head))!
    expect(remark).toBeDefined()
    expect(wiringRemarks(remark.fix(broken)).some((candidate) => candidate.head === remark.head)).toBe(false)
  })

  test('a muted track is said', () => {
    const muted = changeTrack(project, project.tracks[1]!.id, (track) => ({ ...track, isMuted: true }))
    expect(wiringRemarks(muted)[0]).toMatchObject({ head: 'Benno’s piano is silent.' })
    expect(wiringRemarks(wiringRemarks(muted)[0]!.fix(muted))).toEqual([])
  })
})
