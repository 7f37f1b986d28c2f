import type { LiveFlow } from '@/engine/protocol'
import { isOfChain } from './slotTypes'

const flow = (chain: LiveFlow['chain']): LiveFlow => ({ chain, slotId: 's', goesIn: [], comesOut: [] })

test('what goes by belongs to its track, or to its port and channel; a chain of a whole port has all channels', () => {
  expect(isOfChain(flow({ trackId: 't' }), { trackId: 't' })).toBe(true)
  expect(isOfChain(flow({ trackId: 't' }), { trackId: 'u' })).toBe(false)
  const heard = flow({ portId: 'A', channel: 3 })
  expect(isOfChain(heard, { portId: 'A', channel: 3 })).toBe(true)
  expect(isOfChain(heard, { portId: 'A', channel: null })).toBe(true)
  expect(isOfChain(heard, { portId: 'A', channel: 4 })).toBe(false)
  expect(isOfChain(heard, { portId: 'B', channel: 3 })).toBe(false)
  expect(isOfChain(heard, { trackId: 't' })).toBe(false)
  expect(isOfChain(flow({ trackId: 't' }), { portId: 'A', channel: null })).toBe(false)
})
