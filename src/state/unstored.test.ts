import { unstoredWords } from './unstored'

const allStored = {
  save: { state: 'saved', atMs: 0 } as const,
  isJournalBehind: false,
  isSoundUnstored: false,
  isRecording: false,
  isInFile: false,
}
const failed = { state: 'failed', reason: 'full', sinceMs: 0 } as const

test('what is stored, or will be in a moment, is not asked about', () => {
  expect(unstoredWords(allStored)).toEqual([])
  expect(unstoredWords({ ...allStored, save: { state: 'waiting' } })).toEqual([])
  expect(unstoredWords({ ...allStored, isRecording: true })).toEqual([])
})

test('what storage refused is told, each kind by itself', () => {
  expect(unstoredWords({ ...allStored, save: failed })[0]).toMatch(/^what was changed since/)
  expect(unstoredWords({ ...allStored, save: { state: 'conflict', conflict: 'taken' } })).toHaveLength(1)
  expect(
    unstoredWords({ ...allStored, save: failed, isJournalBehind: true, isSoundUnstored: true }),
  ).toHaveLength(3)
})

test('what was saved to a file may be left, but not what is being recorded, nor sound', () => {
  const inFile = { ...allStored, save: failed, isJournalBehind: true, isInFile: true }
  expect(unstoredWords(inFile)).toEqual([])
  expect(unstoredWords({ ...inFile, isRecording: true })).toEqual(['what was played last'])
  expect(unstoredWords({ ...inFile, isSoundUnstored: true })).toHaveLength(1)
})
