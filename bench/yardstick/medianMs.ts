/** What a piece of work takes, in milliseconds: the middle one of five. */
export async function medianMs(work: () => unknown): Promise<number> {
  const times: number[] = []
  for (let time = 0; time < 5; time++) {
    const start = performance.now()
    await work()
    times.push(performance.now() - start)
  }
  return times.sort((a, b) => a - b)[2]!
}
