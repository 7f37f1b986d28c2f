import type { z } from '../border/checks'
import { bounded } from '../text/bounded'

/** A part of something stored that could not be read, as it was found. */
export interface AsidePart {
  /** Where it was: "tracks.3.effects.1". */
  readonly path: string
  readonly reason: string
  readonly value: unknown
}

/** What stands in for a part that cannot be read, by the list it is an element of; '' for the whole. */
export type StandIns = Readonly<Record<string, Readonly<Record<string, unknown>>>>

type Issue = z.core.$ZodIssue
type Path = readonly PropertyKey[]

/** More rounds than this would mend nothing more. */
const mostRounds = 50

/**
 * Reads something stored of which parts may be damaged: a text or list that is too long is cut, a number out of its range
 * put on its edge, a field that has a stand-in takes it, and any other damaged element of a list is left out. What was there
 * instead is kept aside, nothing is dropped in silence.
 *
 * @returns undefined where too little is left to be read at all
 */
export function salvage<Value>(
  schema: z.ZodType<Value>,
  stored: unknown,
  standIns: StandIns,
): { readonly value: Value; readonly aside: readonly AsidePart[] } | undefined {
  const aside: AsidePart[] = []
  let value: unknown = stored
  for (let round = 0; round < mostRounds; round++) {
    const parsed = schema.safeParse(value)
    if (parsed.success) return { value: parsed.data, aside }
    const copy: unknown = structuredClone(value)
    const leftOut: Path[] = []
    for (const issue of parsed.error.issues) {
      const part = { path: issue.path.join('.'), reason: issue.message, value: at(copy, issue.path) }
      if (mendInPlace(copy, issue, standIns)) {
        aside.push(part)
        continue
      }
      const element = innermostElement(issue.path)
      if (!element) return undefined
      if (!leftOut.some((path) => isSame(path, element)))
        aside.push({ ...part, path: element.join('.'), value: at(copy, element) })
      leftOut.push(element)
    }
    for (const path of inRemovalOrder(leftOut)) removeAt(copy, path)
    value = copy
  }
  return undefined
}

function mendInPlace(root: unknown, issue: Issue, standIns: StandIns): boolean {
  const found = at(root, issue.path)
  if (issue.code === 'too_big' && typeof found === 'string')
    return setAt(root, issue.path, bounded(found, Number(issue.maximum)))
  if (issue.code === 'too_big' && Array.isArray(found))
    return setAt(root, issue.path, found.slice(0, Number(issue.maximum)))
  if (issue.code === 'too_big' && typeof found === 'number')
    return setAt(root, issue.path, Number(issue.maximum))
  if (issue.code === 'too_small' && typeof found === 'number')
    return setAt(root, issue.path, Number(issue.minimum))
  return putStandIn(root, issue.path, standIns)
}

/** A field of the whole, or of an element of one of its lists, that has a stand-in. */
function putStandIn(root: unknown, path: Path, standIns: StandIns): boolean {
  const isOfElement = path.length === 3 && typeof path[1] === 'number'
  if (path.length !== 1 && !isOfElement) {
    // Something deep in a field of the whole that is no list: the field as a whole takes its stand-in.
    if (path.length < 2 || path.some((step) => typeof step === 'number')) return false
    return putStandIn(root, path.slice(0, 1), standIns)
  }
  const list = isOfElement ? String(path[0]) : ''
  const field = String(path.at(-1))
  const fields = standIns[list]
  return fields && field in fields ? setAt(root, path, structuredClone(fields[field])) : false
}

function innermostElement(path: Path): Path | undefined {
  for (let length = path.length; length > 0; length--)
    if (typeof path[length - 1] === 'number') return path.slice(0, length)
  return undefined
}

/** Later elements first, so that the places of earlier ones hold. */
function inRemovalOrder(paths: readonly Path[]): Path[] {
  const different = paths.filter((path, index) => paths.findIndex((other) => isSame(path, other)) === index)
  return different.sort((a, b) => Number(b.at(-1)) - Number(a.at(-1)) || b.length - a.length)
}

const isSame = (a: Path, b: Path) => a.length === b.length && a.every((step, index) => step === b[index])

function at(root: unknown, path: Path): unknown {
  return path.reduce<unknown>(
    (value, step) =>
      typeof value === 'object' && value !== null ? (value as Record<PropertyKey, unknown>)[step] : undefined,
    root,
  )
}

function setAt(root: unknown, path: Path, value: unknown): boolean {
  const holder = at(root, path.slice(0, -1))
  if (typeof holder !== 'object' || holder === null || path.length === 0) return false
  ;(holder as Record<PropertyKey, unknown>)[path.at(-1)!] = value
  return true
}

function removeAt(root: unknown, path: Path): void {
  const list = at(root, path.slice(0, -1))
  if (Array.isArray(list)) list.splice(Number(path.at(-1)), 1)
}
