/**
 * Whether what will be needed is made ready before: threads started, the page read while nobody looks. A test may say that nothing is: then
 * only what it comes to use is loaded.
 */
export const isPreparedAhead = (): boolean => !('isNothingPreparedAhead' in globalThis)
