import { seatComputerKeyboard, seatStandIns, trio } from '../demo/harbourEvening'
import { addSource, changeTrack } from '../project/commands'
import { emptyProject } from '../project/create'
import type { Project, Source, Track } from '../project/schema'
import { cablePortId } from '../routing/ports'
import { plainRoute } from '../routing/route'
import { checkWiring } from './wiring'
import { nothingSeen } from './wiringRemark'

const empty = emptyProject('p', 'P', 0)
const seated = seatStandIns(empty)
const source = (fields: Partial<Source>): Source => ({
  id: 'visitor',
  name: 'Visitor',
  kind: 'midiPort',
  address: { portId: 'grey-box', channel: 1 },
  description: '',
  portName: 'Grey box',
  group: '',
  compensationMs: 0,
  soundInput: null,
  effects: [],
  ...fields,
})
const piano = { kind: 'program', program: 0 } as const
const visited = addSource(seated, source({}), piano)
const change = (project: Project, index: number, fields: Partial<Track>) =>
  changeTrack(project, project.tracks[index]!.id, (track) => ({ ...track, ...fields }))

test('six players, each on a track of their own: nothing to remark', () => {
  expect(checkWiring(seated)).toEqual([])
  expect(checkWiring(seatComputerKeyboard(seatStandIns(empty, trio), 'computer-keyboard'))).toEqual([])
})

describe.each<[what: string, broken: Project, head: RegExp, seen?: Parameters<typeof checkWiring>[1]]>([
  [
    'another channel',
    change(seated, 2, { routes: [plainRoute({ portId: 'stand-in-port', channel: 7 })] }),
    /^Sefa’s harp is silent\.$/,
  ],
  ['no track at all', { ...seated, tracks: seated.tracks.slice(1) }, /^Orla’s flute reaches no track\.$/],
  [
    'one player, two tracks',
    change(seated, 0, { routes: [plainRoute({ portId: 'stand-in-port', channel: 2 })] }),
    /^Benno’s piano drives 2 tracks\.$/,
  ],
  ['muted', change(seated, 1, { isMuted: true }), /^Benno’s piano is silent\.$/],
  ['another plays solo', change(seated, 0, { isSolo: true }), /^Benno’s piano is silent\.$/],
  ['volume zero', change(seated, 1, { volume: 0 }), /^Benno’s piano is silent\.$/],
  ['no instrument', change(seated, 1, { instrument: { kind: 'none' } }), /^Benno’s piano is silent\.$/],
  ['not monitored', change(seated, 1, { monitor: 'off' }), /^Benno’s piano is silent\.$/],
  ['not armed', change(seated, 1, { isArmed: false }), /^Benno’s piano is not recorded\.$/],
  [
    'several players in one track',
    change({ ...seated, tracks: seated.tracks.slice(1) }, 0, {
      routes: [
        plainRoute({ portId: 'stand-in-port', channel: 1 }),
        plainRoute({ portId: 'stand-in-port', channel: 2 }),
      ],
    }),
    /^2 players share Benno’s piano\.$/,
  ],
  [
    'two controllers on one channel of one port',
    { ...visited, sources: [...visited.sources, source({ id: 'second', name: 'Second visitor' })] },
    /cannot be told apart/,
  ],
  [
    'feedback',
    change(visited, 6, {
      routes: [plainRoute({ portId: cablePortId('Pier'), channel: null })],
      sendTo: { portId: cablePortId('Pier'), channel: null },
    }),
    /^Feedback\.$/,
  ],
  [
    'a port that is gone',
    visited,
    /^Visitor cannot be heard\.$/,
    { ...nothingSeen, ports: [{ id: 'other', name: 'Blue box' }] },
  ],
  [
    'a player who has not played',
    visited,
    /^Visitor has not played yet\.$/,
    {
      ...nothingSeen,
      streams: seated.sources.map(({ address }) => ({ ...address, channel: address.channel!, noteOns: 20 })),
    },
  ],
  [
    'a cable nobody reads',
    change(seated, 1, { sendTo: { portId: cablePortId('Pier'), channel: 3 } }),
    /^Nobody reads the cable “Pier”\.$/,
  ],
  ['drums on a pitched instrument', change(seated, 3, { instrument: piano }), /plays drums on a pitched/],
  ['a flute on the drum kit', change(seated, 0, { instrument: { kind: 'drums' } }), /plays on a drum kit/],
])('%s', (_, broken, head, seen = nothingSeen) => {
  const remark = checkWiring(broken, seen).find((candidate) => head.test(candidate.head))!

  test('is said in a sentence that names who it is about', () => {
    expect(remark).toBeDefined()
    expect(remark.text).toMatch(/\.$|\?$/)
    expect(remark.sourceIds.length + remark.trackIds.length).toBeGreaterThan(0)
  })

  test('the first fix beside it mends it', () => {
    const mended = remark.fixes[0]!.change(broken)
    expect(checkWiring(mended, seen).map((each) => each.head)).not.toContain(remark.head)
  })

  test('can be said to be meant so', () => {
    const accepted = { ...broken, acceptedRemarks: [remark.id] }
    expect(checkWiring(accepted, seen).some((each) => each.id === remark.id)).toBe(false)
  })
})

test('the wrong channel is said in one sentence: what the track hears, what the player sends, and the fix', () => {
  const broken = change(seated, 2, { routes: [plainRoute({ portId: 'stand-in-port', channel: 7 })] })
  expect(checkWiring(broken)[0]).toMatchObject({
    text: 'The track listens to channel 7, but Sefa’s harp sends on channel 3.',
    fixes: [{ label: 'Listen to channel 3' }, { label: 'Give Sefa’s harp a track' }],
  })
})

test('a keyboard divided between two tracks by key range is nothing to remark', () => {
  const address = { portId: 'stand-in-port', channel: 2 }
  const divided = change(change(seated, 0, { routes: [{ ...plainRoute(address), lowKey: 60 }] }), 1, {
    routes: [{ ...plainRoute(address), highKey: 59 }],
  })
  expect(checkWiring(divided).map((remark) => remark.head)).toEqual(['Orla’s flute reaches no track.'])
})

test('a cable read by another program, or here, is read', () => {
  const sending = change(seated, 1, { sendTo: { portId: cablePortId('Pier'), channel: 3 } })
  expect(checkWiring(sending, { ...nothingSeen, readCables: ['Pier'] })).toEqual([])
})
