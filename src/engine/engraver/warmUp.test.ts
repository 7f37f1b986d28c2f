import { verovioToolkit } from '@/core/formats/verovioReader.testing'
import { warmUp } from './warmUp'

test('the invented bars are engraved, with all that usual pages have', async () => {
  const toolkit = await verovioToolkit()
  const drawings: string[] = []
  warmUp({
    setOptions: (options) => toolkit.setOptions(options),
    loadData: (data) => toolkit.loadData(data),
    renderToSVG: (page) => {
      const svg = toolkit.renderToSVG(page)
      drawings.push(svg)
      return svg
    },
    getMEI: () => toolkit.getMEI(),
  })
  const drawn = drawings.join('')
  for (const kind of ['note', 'chord', 'beam', 'rest', 'tuplet', 'accid', 'dynam', 'clef'])
    expect(drawn).toContain(`class="${kind}`)
})
