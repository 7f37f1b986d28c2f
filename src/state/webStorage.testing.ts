/**
 * Gives this process the small storage of a page (Web Storage, WHATWG HTML).
 *
 * @returns what is in it, and how to say how many letters there is room for in one text
 */
export function giveWebStorage() {
  const kept = new Map<string, string>()
  let roomLetters = Number.POSITIVE_INFINITY
  Object.assign(globalThis, {
    localStorage: {
      get length() {
        return kept.size
      },
      key: (index: number) => [...kept.keys()][index] ?? null,
      getItem: (key: string) => kept.get(key) ?? null,
      setItem(key: string, text: string) {
        if (text.length > roomLetters) throw new DOMException('full', 'QuotaExceededError')
        kept.set(key, text)
      },
      removeItem: (key: string) => kept.delete(key),
    },
  })
  return {
    kept,
    setRoom(letters: number) {
      roomLetters = letters
    },
  }
}
