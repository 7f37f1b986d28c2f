/** What the page tells the service worker: take over from the old version. */
export const useNewVersion = 'useNewVersion'
/** Asks for instruments to be kept, and answers how many are. */
export const keepInstruments = 'keepInstruments'
/** Name of the cache that instruments are kept in. */
export const instrumentCache = 'instruments'
