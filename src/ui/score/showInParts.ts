/**
 * Puts a line of music into the page, a bar in each frame: the browser lays out what is there on the page's own thread, and a whole line
 * of many staves would hold a scrolling page up. (A sign that is only hidden would be laid out as well.)
 *
 * The host says `data-whole` once all of it is there.
 *
 * @param onBar is told of each bar that came later than the first
 * @returns shows the rest at once
 */
export function showInParts(host: HTMLElement, svg: string, onBar: (bar: SVGElement) => void): () => void {
  const parsed = document.createElement('template')
  parsed.innerHTML = svg
  const waiting = [...parsed.content.querySelectorAll<SVGElement>('g.measure')].slice(1).map((bar) => {
    const place = document.createComment('')
    bar.replaceWith(place)
    return { bar, place }
  })
  host.replaceChildren(parsed.content)
  let frame = 0
  const sayWhole = () => {
    if (waiting.length === 0) host.dataset.whole = ''
  }
  sayWhole()
  const show = ({ bar, place }: (typeof waiting)[number]) => {
    place.replaceWith(bar)
    onBar(bar)
  }
  const showNext = () => {
    const next = waiting.shift()
    if (next) show(next)
    sayWhole()
    if (waiting.length > 0) frame = requestAnimationFrame(showNext)
  }
  // The frame that is about to be made has the first of them.
  frame = requestAnimationFrame(() => {
    frame = requestAnimationFrame(showNext)
  })
  return () => {
    cancelAnimationFrame(frame)
    for (const each of waiting.splice(0)) show(each)
    sayWhole()
  }
}
