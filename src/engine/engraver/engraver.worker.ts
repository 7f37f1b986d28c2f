import { expose } from 'comlink'
import { Engraver } from './engraver'
import { loadVerovio } from './verovio'

/** The engraver's thread: the library is loaded as soon as the worker starts, so that the first page is quick. */
const engraver = loadVerovio().then((toolkit) => new Engraver(toolkit))

const api = {
  async update(...args: Parameters<Engraver['update']>) {
    return (await engraver).update(...args)
  },
  async engrave(systemIndex: number) {
    return (await engraver).engrave(systemIndex)
  },
  async live(...args: Parameters<Engraver['live']>) {
    return (await engraver).live(...args)
  },
  async locate(...args: Parameters<Engraver['locate']>) {
    return (await engraver).locate(...args)
  },
  async draw(...args: Parameters<Engraver['draw']>) {
    return (await engraver).draw(...args)
  },
  async notesIn(...args: Parameters<Engraver['notesIn']>) {
    return (await engraver).notesIn(...args)
  },
  async notesBetween(...args: Parameters<Engraver['notesBetween']>) {
    return (await engraver).notesBetween(...args)
  },
  async picture(...args: Parameters<Engraver['picture']>) {
    return (await engraver).picture(...args)
  },
  async sounds() {
    return (await engraver).sounds()
  },
  async chords() {
    return (await engraver).chords()
  },
  async walk(...args: Parameters<Engraver['walk']>) {
    return (await engraver).walk(...args)
  },
}

export type EngraverApi = typeof api
expose(api)
