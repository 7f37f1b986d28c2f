import type { BeamPart, ScoreElement } from './score'
import { flagCount } from './values'

/**
 * Beams of the elements of one voice in one measure: values with flags that lie in the same beat are joined, level by
 * level; a longer value ends the beam, and a rest does unless beams go over rests.
 *
 * @param beatTicks length of the unit that is beamed together
 */
export function addBeams(
  elements: readonly ScoreElement[],
  beatTicks: number,
  goesOverRests: boolean,
): ScoreElement[] {
  const result = [...elements]
  let group: number[] = []
  const close = () => {
    if (group.length > 1) {
      const flags = group.map((index) => flagCount(result[index]!.value.type))
      for (const [place, index] of group.entries()) {
        const element = result[index]!
        if (element.kind === 'chord') result[index] = { ...element, beams: beamParts(flags, place) }
      }
    }
    group = []
  }
  let beat = -1
  for (const [index, element] of elements.entries()) {
    const own = Math.floor(element.startTicks / beatTicks)
    const flags = element.kind === 'chord' ? flagCount(element.value.type) : 0
    const isRestWithin =
      goesOverRests && element.kind === 'rest' && own === beat && flagCount(element.value.type) > 0
    if (isRestWithin) continue
    if (own !== beat || flags === 0) close()
    beat = own
    if (flags > 0) group.push(index)
  }
  close()
  return result
}

function beamParts(flags: readonly number[], place: number): BeamPart[] {
  const own = flags[place]!
  const before = flags[place - 1] ?? 0
  const after = flags[place + 1] ?? 0
  const parts: BeamPart[] = []
  for (let level = 1; level <= own; level++) {
    const fromBefore = before >= level
    const toAfter = after >= level
    if (fromBefore && toAfter) parts.push('continue')
    else if (toAfter) parts.push('begin')
    else if (fromBefore) parts.push('end')
    else parts.push(place === 0 ? 'forward hook' : 'backward hook')
  }
  return parts
}
