/** Forms of a piece that need the engraver, its fonts, or the instruments. */
export const renderedForms = ['mei', 'svg', 'pdf', 'wav', 'ogg'] as const
export type RenderedForm = (typeof renderedForms)[number]
