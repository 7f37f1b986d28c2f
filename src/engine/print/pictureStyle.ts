import { loadFont, musicFont, wordFonts } from './wordFonts'

type Script = keyof (typeof wordFonts)['regular']

/** Letters of each script, besides the usual ones. */
const lettersOf: Readonly<Record<Exclude<Script, 'latin'>, RegExp>> = {
  'latin-ext': /[\u0100-\u02ff\u1e00-\u1eff]/,
  cyrillic: /[\u0400-\u04ff]/,
  greek: /[\u0370-\u03ff]/,
}
const musicSigns = /[\u2669-\u266f]|\ud834/

const faceStyles = {
  regular: 'font-weight:400;font-style:normal',
  bold: 'font-weight:700;font-style:normal',
  italic: 'font-weight:400;font-style:italic',
} as const

/** What the program's own styles do for a drawing of music; in a file nothing else does it. */
const drawingStyle =
  'svg{stroke:currentColor}text{stroke:none;font-family:"Unbroken Voice","Unbroken Voice signs",serif}g.tempo,g.reh{font-weight:bold}g.mNum,g.dir{font-style:italic}'

/**
 * The styles of a drawing that becomes a file, with the fonts of its words inside: it looks the same wherever it is opened.
 *
 * @param svg the drawing: only fonts whose letters it has are taken
 * @param load fetches a font
 */
export async function pictureStyle(svg: string, load = loadFont): Promise<string> {
  const words = svg.replace(/<[^>]*>/g, '')
  const scripts = (Object.keys(wordFonts.regular) as Script[]).filter(
    (script) => script === 'latin' || lettersOf[script].test(words),
  )
  const faces = await Promise.all([
    ...(Object.keys(wordFonts) as (keyof typeof wordFonts)[]).flatMap((style) =>
      scripts.map(async (script) =>
        face('Unbroken Voice', faceStyles[style], await load(wordFonts[style][script])),
      ),
    ),
    ...(musicSigns.test(words)
      ? [face('Unbroken Voice signs', faceStyles.regular, await load(musicFont))]
      : []),
  ])
  return `<style>${faces.join('')}${drawingStyle}</style>`
}

function face(family: string, style: string, font: Uint8Array): string {
  return `@font-face{font-family:"${family}";${style};src:url(data:font/woff;base64,${base64(font)})}`
}

function base64(bytes: Uint8Array): string {
  let text = ''
  for (let from = 0; from < bytes.length; from += 0x8000)
    text += String.fromCharCode(...bytes.subarray(from, from + 0x8000))
  return btoa(text)
}
