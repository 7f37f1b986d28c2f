/** An element of a drawing as the engraver gives it: a group opens and closes, shapes and words stand in it. */
export type SvgElement =
  | { readonly kind: 'open'; readonly name: string; readonly attributes: Attributes }
  | { readonly kind: 'close'; readonly name: string }
  | { readonly kind: 'text'; readonly text: string }

export type Attributes = Readonly<Record<string, string>>

/**
 * The elements of a drawing in order. This reads what the engraver writes (`lighten`), not any SVG: no comments, no entities but those of
 * text, attributes in double quotes.
 */
export function* svgElements(svg: string): Generator<SvgElement> {
  const pattern = /<(\/?)([a-zA-Z]+)((?:\s+[\w:-]+="[^"]*")*)\s*(\/?)>|([^<]+)/g
  for (const [, slash, name, attributes, isSingle, text] of svg.matchAll(pattern)) {
    if (text !== undefined) {
      const words = text.replace(/\s+/g, ' ')
      if (words.trim() !== '') yield { kind: 'text', text: decoded(words) }
      continue
    }
    if (slash) {
      yield { kind: 'close', name: name! }
      continue
    }
    yield { kind: 'open', name: name!, attributes: attributesOf(attributes!) }
    if (isSingle) yield { kind: 'close', name: name! }
  }
}

function attributesOf(text: string): Attributes {
  return Object.fromEntries(
    [...text.matchAll(/([\w:-]+)="([^"]*)"/g)].map(([, name, value]) => [name, value]),
  )
}

const entities: Readonly<Record<string, string>> = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" }

function decoded(text: string): string {
  return text.replace(/&(?:#x([\da-f]+)|#(\d+)|(\w+));/gi, (whole, hex, decimal, name) =>
    hex
      ? String.fromCodePoint(Number.parseInt(hex, 16))
      : decimal
        ? String.fromCodePoint(Number(decimal))
        : (entities[name] ?? whole),
  )
}
