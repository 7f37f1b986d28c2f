/** Fonts of words, as WOFF: the library that embeds them in a PDF cannot take the newer form apart. */
export const wordFonts = {
  regular: {
    latin: new URL('@fontsource/source-serif-4/files/source-serif-4-latin-400-normal.woff', import.meta.url),
    'latin-ext': new URL(
      '@fontsource/source-serif-4/files/source-serif-4-latin-ext-400-normal.woff',
      import.meta.url,
    ),
    cyrillic: new URL(
      '@fontsource/source-serif-4/files/source-serif-4-cyrillic-400-normal.woff',
      import.meta.url,
    ),
    greek: new URL('@fontsource/source-serif-4/files/source-serif-4-greek-400-normal.woff', import.meta.url),
  },
  bold: {
    latin: new URL('@fontsource/source-serif-4/files/source-serif-4-latin-700-normal.woff', import.meta.url),
    'latin-ext': new URL(
      '@fontsource/source-serif-4/files/source-serif-4-latin-ext-700-normal.woff',
      import.meta.url,
    ),
    cyrillic: new URL(
      '@fontsource/source-serif-4/files/source-serif-4-cyrillic-700-normal.woff',
      import.meta.url,
    ),
    greek: new URL('@fontsource/source-serif-4/files/source-serif-4-greek-700-normal.woff', import.meta.url),
  },
  italic: {
    latin: new URL('@fontsource/source-serif-4/files/source-serif-4-latin-400-italic.woff', import.meta.url),
    'latin-ext': new URL(
      '@fontsource/source-serif-4/files/source-serif-4-latin-ext-400-italic.woff',
      import.meta.url,
    ),
    cyrillic: new URL(
      '@fontsource/source-serif-4/files/source-serif-4-cyrillic-400-italic.woff',
      import.meta.url,
    ),
    greek: new URL('@fontsource/source-serif-4/files/source-serif-4-greek-400-italic.woff', import.meta.url),
  },
} as const

/** Signs of music within words. */
export const musicFont = new URL(
  '@fontsource/noto-music/files/noto-music-music-400-normal.woff',
  import.meta.url,
)

/** @throws Error when it is not there */
export async function loadFont(address: URL): Promise<Uint8Array> {
  const answer = await fetch(address)
  if (!answer.ok) throw new Error(`a font of the page could not be loaded (${answer.status})`)
  return new Uint8Array(await answer.arrayBuffer())
}
