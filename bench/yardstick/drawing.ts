import { launchBrowser } from '../launchBrowser'

/**
 * An empty page of the same browser, without the program: two thousand boxes are laid out and coloured anew, and five thousand bars drawn
 * on a canvas, so often.
 */
export async function drawingMs(): Promise<number> {
  const browser = await launchBrowser()
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    return await page.evaluate(async () => {
      const canvas = document.body.appendChild(document.createElement('canvas'))
      Object.assign(canvas, { width: 1200, height: 400 })
      const context = canvas.getContext('2d')!
      const boxes = Array.from({ length: 2000 }, (_, index) => {
        const box = document.body.appendChild(document.createElement('span'))
        box.textContent = `${index} `
        return box
      })
      const frame = () => new Promise(requestAnimationFrame)
      const times: number[] = []
      for (let time = 0; time < 7; time++) {
        await frame()
        const start = performance.now()
        for (let turn = 0; turn < 4; turn++) {
          for (const [index, box] of boxes.entries()) {
            box.style.paddingLeft = `${(index + turn + time) % 5}px`
            box.style.color = (index + turn) % 2 ? '#333' : '#555'
          }
          document.body.getBoundingClientRect()
          for (let bar = 0; bar < 5000; bar++) {
            context.fillStyle = `hsl(${(bar * 7 + turn) % 360} 50% 50%)`
            context.fillRect((bar * 13) % 1200, (bar * 29) % 400, 9, 3)
          }
          context.getImageData(0, 0, 1, 1)
        }
        times.push(performance.now() - start)
      }
      return times.sort((a, b) => a - b)[3]!
    })
  } finally {
    await browser.close()
  }
}
