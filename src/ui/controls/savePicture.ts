import { pictureStyle } from '@/engine/print/pictureStyle'
import { download } from './download'

export type PictureFormat = 'svg' | 'png'

/** Dots of a picture to one of its drawing: sharp in print at its own size. */
const dotsToPixel = 3
/** Browsers draw no larger pictures than about this. */
const mostDots = 16_000

/**
 * Saves a drawing as a file of its own, with its fonts; as PNG on white paper.
 *
 * @param svg begins with its element, with width, height and namespace
 * @throws Error when the browser cannot draw it
 */
export async function savePicture(svg: string, name: string, format: PictureFormat): Promise<void> {
  const style = await pictureStyle(svg)
  const whole = svg.replace(/^(<svg[^>]*>)/, (tag) => `${tag}${style}`)
  const bytes = format === 'svg' ? new TextEncoder().encode(whole) : await asPng(whole)
  download(`${name}.${format}`, bytes, format === 'svg' ? 'image/svg+xml' : 'image/png')
}

async function asPng(svg: string): Promise<Uint8Array> {
  const url = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }))
  try {
    const image = new Image()
    image.src = url
    await image.decode()
    const scale = Math.min(dotsToPixel, mostDots / image.width, mostDots / image.height)
    const canvas = document.createElement('canvas')
    canvas.width = Math.round(image.width * scale)
    canvas.height = Math.round(image.height * scale)
    const brush = canvas.getContext('2d')
    if (!brush) throw new Error('this browser cannot draw pictures')
    brush.fillStyle = 'white'
    brush.fillRect(0, 0, canvas.width, canvas.height)
    brush.drawImage(image, 0, 0, canvas.width, canvas.height)
    const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'))
    if (!blob) throw new Error('this browser cannot draw so large a picture')
    return new Uint8Array(await blob.arrayBuffer())
  } finally {
    URL.revokeObjectURL(url)
  }
}
