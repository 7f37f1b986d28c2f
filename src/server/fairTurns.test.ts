import { FairTurns } from './fairTurns'

/** Work that is done when it is told to. */
function workshop(places: number) {
  const turns = new FairTurns(places)
  const begun: string[] = []
  const ends = new Map<string, () => void>()
  const ask = (client: string, name: string) =>
    turns.run(client, () => {
      begun.push(name)
      return new Promise<string>((resolve) => ends.set(name, () => resolve(name)))
    })
  const end = async (name: string) => {
    ends.get(name)!()
    await new Promise(setImmediate)
  }
  return { turns, begun, ask, end }
}

test('whoever asks once does not wait for everything of whoever asked ten times before', async () => {
  const { turns, begun, ask, end } = workshop(1)
  for (let index = 0; index < 10; index++) void ask('greedy', `g${index}`)
  void ask('honest', 'h')
  await new Promise(setImmediate)
  expect([turns.count, turns.waitingOf('greedy'), turns.waitingOf('nobody')]).toEqual([11, 9, 0])
  await end('g0')
  await end('g1')
  expect(begun).toEqual(['g0', 'g1', 'h'])
})

test('as many at once as there are places; a failure gives its place on', async () => {
  const { turns, begun, ask, end } = workshop(2)
  await expect(turns.run('a', () => Promise.reject(new Error('no')))).rejects.toThrow('no')
  for (const name of ['one', 'two', 'three']) void ask('a', name)
  await new Promise(setImmediate)
  expect(begun).toEqual(['one', 'two'])
  await end('two')
  expect(begun).toEqual(['one', 'two', 'three'])
  await end('one')
  await end('three')
  expect(turns.count).toBe(0)
})
