import type { Instrument } from '../../midi/instrument'
import { instrumentOfName, instrumentOfSound } from '../../midi/instrumentNames'
import type { PartHeading } from '../../notation/headings'
import { boundedName } from '../../text/bounded'
import { child, childrenOf, textOf, type XmlElement } from '../xmlTree'

/** A part as the list of parts tells it, before its notes are read. */
export interface ListedPart {
  readonly id: string
  readonly heading: PartHeading
  /** The file says what it sounds as. */
  readonly isInstrumentTold: boolean
  /** Of percussion: the key of each instrument, by its id. */
  readonly keyOf: ReadonlyMap<string, number>
}

/** The parts of `part-list`, in order. */
export function listedParts(list: XmlElement): ListedPart[] {
  const heldFrom = new Set<string>()
  const parts: ListedPart[] = []
  const open = new Map<string, { first: number }>()
  const held: { first: number; last: number }[] = []
  for (const element of list.children) {
    if (element.name === 'part-group') {
      const number = element.attributes.number ?? '1'
      if (element.attributes.type === 'start') open.set(number, { first: parts.length })
      else {
        const group = open.get(number)
        if (group && parts.length - 1 > group.first) held.push({ ...group, last: parts.length - 1 })
        open.delete(number)
      }
    }
    if (element.name === 'score-part') parts.push(listedPart(element, parts.length))
  }
  for (const { first, last } of held)
    for (const part of parts.slice(first + 1, last + 1)) heldFrom.add(part.id)
  return parts.map((part) => ({
    ...part,
    heading: { ...part.heading, bracket: heldFrom.has(part.id) ? 'above' : 'none' },
  }))
}

function listedPart(element: XmlElement, index: number): ListedPart {
  const name = boundedName(textOf(element, 'part-name') ?? '')
  const keyOf = new Map<string, number>()
  const named = new Map<string, string>()
  for (const each of childrenOf(element, 'score-instrument'))
    named.set(each.attributes.id ?? '', textOf(each, 'instrument-name') ?? '')
  const midi = childrenOf(element, 'midi-instrument')
  for (const each of midi) {
    const key = whole(textOf(each, 'midi-unpitched'), 1, 128)
    if (key !== null) keyOf.set(each.attributes.id ?? '', key - 1)
  }
  const first = midi[0]
  const channel = whole(textOf(first, 'midi-channel'), 1, 16)
  const program = whole(textOf(first, 'midi-program'), 1, 128)
  const sounds = childrenOf(element, 'score-instrument').flatMap(
    (each) => instrumentOfSound(textOf(each, 'instrument-sound') ?? '') ?? [],
  )
  const isDrums = keyOf.size > 0 || (channel === 10 && program === null)
  const told: Instrument | null = isDrums
    ? { kind: 'drums' }
    : program !== null
      ? { kind: 'program', program: program - 1 }
      : (sounds[0] ?? null)
  const said = told ?? instrumentOfName(name) ?? [...named.values()].map(instrumentOfName).find(Boolean)
  const volume = Number(textOf(first, 'volume') ?? Number.NaN)
  const pan = Number(textOf(first, 'pan') ?? Number.NaN)
  return {
    id: element.attributes.id ?? '',
    isInstrumentTold: told !== null,
    keyOf,
    heading: {
      name: name || `Part ${index + 1}`,
      shortName: boundedName(textOf(element, 'part-abbreviation') ?? ''),
      instrument: said ?? { kind: 'program', program: 0 },
      bracket: 'usual',
      keyNames: [...keyOf].flatMap(([id, key]) => {
        const keyName = boundedName(named.get(id) ?? '')
        return keyName ? [{ key, name: keyName }] : []
      }),
      channel: channel ?? (isDrums ? 10 : 1),
      volume: Number.isFinite(volume) ? Math.min(1, Math.max(0, volume / 100)) : 0.8,
      pan: Number.isFinite(pan) ? Math.min(1, Math.max(-1, pan / 90)) : 0,
    },
  }
}

function whole(text: string | undefined, least: number, most: number): number | null {
  const number = Number(text ?? Number.NaN)
  return Number.isInteger(number) && number >= least && number <= most ? number : null
}

/** What the head of a file says of the piece. */
export function pieceHeadings(parts: {
  readonly work: XmlElement | undefined
  readonly movementTitle: string
  readonly identification: XmlElement | undefined
  readonly credits: readonly XmlElement[]
}) {
  const { identification } = parts
  const creators = (type: string) =>
    childrenOf(identification, 'creator')
      .filter((each) => each.attributes.type === type)
      .map((each) => each.text.trim())
      .join(', ')
  const credited = (type: string) =>
    parts.credits
      .filter((credit) => textOf(credit, 'credit-type') === type)
      .flatMap((credit) => textOf(credit, 'credit-words') ?? [])[0] ?? ''
  const workTitle = textOf(parts.work, 'work-title') ?? ''
  const title = workTitle || parts.movementTitle || credited('title')
  const second = workTitle && parts.movementTitle !== workTitle ? parts.movementTitle : ''
  return {
    title: boundedName(title),
    subtitle: boundedName(second || credited('subtitle')),
    composer: boundedName(creators('composer') || credited('composer')),
    arranger: boundedName(creators('arranger') || credited('arranger')),
    rights: boundedName(
      childrenOf(identification, 'rights')
        .map((each) => each.text.trim())
        .join('; ') || credited('rights'),
    ),
    software: textOf(child(identification, 'encoding'), 'software') ?? '',
  }
}
