import type { Chanceful } from './chanceful'

/** Bytes at which readers go wrong: edges of signs, statuses and variable-length numbers. */
const telling = [
  0x00, 0x01, 0x7f, 0x80, 0x81, 0x90, 0xb0, 0xc0, 0xe0, 0xf0, 0xf7, 0xf8, 0xff, 0x2f, 0x51, 0x58,
]

/** Damages bytes in a few places: turned, replaced, put in, taken out, repeated, cut off. */
export function damageBytes(bytes: Uint8Array, by: Chanceful): Uint8Array {
  let list = [...bytes]
  for (let count = 1 + by.below(6); count > 0; count--) {
    const at = by.below(list.length + 1)
    switch (by.below(7)) {
      case 0:
        if (at < list.length) list[at] = list[at]! ^ (1 << by.below(8))
        break
      case 1:
        if (at < list.length) list[at] = by.pick(telling)
        break
      case 2:
        list.splice(at, 0, ...Array.from({ length: 1 + by.below(5) }, () => by.pick(telling)))
        break
      case 3:
        list.splice(at, 1 + by.below(8))
        break
      case 4:
        list.splice(at, 0, ...list.slice(by.below(list.length + 1)).slice(0, by.below(60)))
        break
      case 5:
        if (by.below(4) === 0) list = list.slice(0, at)
        break
      default:
        for (let index = at; index < Math.min(list.length, at + 4); index++) list[index] = by.below(256)
    }
  }
  return Uint8Array.from(list)
}

/** Damages a text: letters that mean something to its reader are put in, pieces repeated, taken out and turned round. */
export function damageText(text: string, letters: readonly string[], by: Chanceful): string {
  let damaged = text
  for (let count = 1 + by.below(8); count > 0; count--) {
    const at = by.below(damaged.length + 1)
    const to = Math.min(damaged.length, at + by.below(20))
    switch (by.below(5)) {
      case 0:
        damaged = damaged.slice(0, at) + by.pick(letters).repeat(1 + by.below(4)) + damaged.slice(at)
        break
      case 1:
        damaged = damaged.slice(0, at) + damaged.slice(to)
        break
      case 2:
        damaged = damaged.slice(0, to) + damaged.slice(at, to).repeat(by.below(30)) + damaged.slice(to)
        break
      case 3:
        damaged = damaged.slice(0, at) + [...damaged.slice(at, to)].reverse().join('') + damaged.slice(to)
        break
      default:
        damaged = damaged.slice(0, at) + String.fromCodePoint(1 + by.below(0xd000)) + damaged.slice(at)
    }
    if (damaged.length > 200_000) damaged = damaged.slice(0, 200_000)
  }
  return damaged
}

/** Values that elements do not expect. */
const oddValues = [
  '',
  '0',
  '-1',
  '1',
  '3',
  '7',
  '0.333',
  '1e9',
  '99999999',
  'x',
  'yes',
  '&amp;',
  'NaN',
  'Infinity',
]

/** Damages XML so that most of it stays well formed: other values, elements that are gone, doubled or changed for others. */
export function damageXml(text: string, by: Chanceful): string {
  let damaged = text
  for (let count = 1 + by.below(6); count > 0; count--) {
    const from = by.below(damaged.length)
    switch (by.below(4)) {
      case 0:
        damaged = replaceFrom(damaged, from, />[^<>]+</, () => `>${by.pick(oddValues)}<`)
        break
      case 1:
        damaged = replaceFrom(damaged, from, /="[^"]*"/, () => `="${by.pick(oddValues)}"`)
        break
      case 2:
        damaged = replaceFrom(damaged, from, /<([\w-]+)(?: [^<>]*)?>[^<>]*<\/\1>|<[\w-]+[^<>]*\/>/, () => '')
        break
      default:
        damaged = replaceFrom(damaged, from, /<([\w-]+)(?: [^<>]*)?>[^<>]*<\/\1>|<[\w-]+[^<>]*\/>/, (whole) =>
          whole.repeat(2 + by.below(3)),
        )
    }
  }
  return by.below(12) === 0 ? damaged.slice(0, by.below(damaged.length + 1)) : damaged
}

function replaceFrom(text: string, from: number, pattern: RegExp, by: (whole: string) => string): string {
  const behind = text.slice(from)
  return text.slice(0, from) + behind.replace(pattern, by)
}

/** Damages the inside of one track of a Standard MIDI File; its length is mended, so that the reader gets that far. */
export function damageTrack(file: Uint8Array, by: Chanceful): Uint8Array {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  const tracks: { readonly from: number; readonly to: number }[] = []
  for (let at = 14; at + 8 <= file.length; ) {
    const to = Math.min(file.length, at + 8 + view.getUint32(at + 4))
    tracks.push({ from: at + 8, to })
    at = to
  }
  const { from, to } = by.pick(tracks)
  const inside = damageBytes(file.subarray(from, to), by)
  const length = new Uint8Array(4)
  new DataView(length.buffer).setUint32(0, inside.length)
  return Uint8Array.from([...file.subarray(0, from - 4), ...length, ...inside, ...file.subarray(to)])
}

/**
 * Alters a value of JSON here and there by what could stand in its place: numbers by near ones and by others of the same file, texts by
 * each other, lists with something less, twice or in another order. Most of it gets past the check of its shape.
 */
export function alterJson(value: unknown, by: Chanceful): unknown {
  const copy = structuredClone(value)
  const places: { readonly holder: Record<string, unknown>; readonly key: string }[] = []
  const gather = (holder: unknown) => {
    if (typeof holder !== 'object' || holder === null) return
    for (const key of Object.keys(holder)) {
      places.push({ holder: holder as Record<string, unknown>, key })
      gather((holder as Record<string, unknown>)[key])
    }
  }
  gather(copy)
  const told = <Kind>(kind: string) =>
    places.map(({ holder, key }) => holder[key]).filter((each) => typeof each === kind) as Kind[]
  const numbers = told<number>('number')
  for (let count = 1 + by.below(5); count > 0 && places.length > 0; count--) {
    const { holder, key } = by.pick(places)
    const now = holder[key]
    if (typeof now === 'number') holder[key] = alteredNumber(now, numbers, by)
    else if (typeof now === 'boolean') holder[key] = !now
    else if (typeof now === 'string') {
      // Of the same kind of place, so that a name stays a name and an effect an effect.
      const others = places.filter((each) => each.key === key).map((each) => each.holder[each.key])
      holder[key] = by.pick(others)
    } else if (Array.isArray(now)) alterList(now, by)
  }
  return copy
}

function alteredNumber(now: number, numbers: readonly number[], by: Chanceful): number {
  switch (by.below(4)) {
    case 0:
      return now + (by.below(2) === 0 ? 1 : -1)
    case 1:
      return Math.round(now * 2 * by.next())
    case 2:
      return by.pick(numbers)
    default:
      return by.below(128)
  }
}

function alterList(list: unknown[], by: Chanceful): void {
  if (list.length === 0) return
  const at = by.below(list.length)
  switch (by.below(3)) {
    case 0:
      list.splice(at, 1)
      break
    case 1:
      list.splice(at, 0, structuredClone(list[at]))
      break
    default:
      list.push(...list.splice(at, 1))
  }
}

/** Mostly what could stand there; now and then what could not. */
export function changeJson(value: unknown, by: Chanceful): unknown {
  return by.below(6) === 0 ? damageJson(value, by) : alterJson(value, by)
}

/** What stands where something else should. */
const strange: readonly unknown[] = [
  null,
  undefined,
  true,
  '',
  'x'.repeat(5000),
  -1,
  0,
  0.5,
  1e308,
  2 ** 31,
  Number.NaN,
  [],
  {},
  [null],
]

/** Damages a value of JSON somewhere inside: replaced, taken out, repeated. */
function damageJson(value: unknown, by: Chanceful): unknown {
  const copy = structuredClone(value)
  for (let count = 1 + by.below(4); count > 0; count--) {
    let holder: unknown = copy
    for (let depth = by.below(8); depth > 0; depth--) {
      const inside = Object.values(holder as object).filter(
        (each) => typeof each === 'object' && each !== null,
      )
      if (inside.length === 0) break
      holder = by.pick(inside)
    }
    if (Array.isArray(holder) && by.below(3) === 0)
      holder.splice(
        by.below(holder.length + 1),
        by.below(2),
        ...structuredClone(holder.slice(0, by.below(3))),
        structuredClone(by.pick(strange)),
      )
    else {
      const keys = Object.keys(holder as object)
      if (keys.length === 0) continue
      ;(holder as Record<string, unknown>)[by.pick(keys)] = structuredClone(by.pick(strange))
    }
  }
  return copy
}
