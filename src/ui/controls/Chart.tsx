import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { type EChartsCoreOption, init, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useEffect, useRef } from 'react'

use([ScatterChart, LineChart, GridComponent, MarkLineComponent, TooltipComponent, SVGRenderer])

/** A chart by ECharts, drawn as SVG and as wide as its place. What it shows is said in words beside it. */
export function Chart({
  option,
  label,
  height,
}: {
  option: EChartsCoreOption
  label: string
  height: number
}) {
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (!place.current) return
    const chart = init(place.current, null, { renderer: 'svg' })
    chart.setOption(option)
    const observer = new ResizeObserver(() => chart.resize())
    observer.observe(place.current)
    return () => {
      observer.disconnect()
      chart.dispose()
    }
  }, [option])
  return <div ref={place} role="img" aria-label={label} style={{ height }} className="w-full" />
}
