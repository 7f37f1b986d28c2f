import { useMemo } from 'react'
import type { LatencyMeasurement } from '@/core/capture/latency'
import { Chart } from '../controls/Chart'

/** Each stroke against its click, with the median and the range in which half of them lie. */
export function LatencyChart({ measurement }: { measurement: LatencyMeasurement }) {
  const { offsetsMs, medianMs, spreadMs } = measurement
  const option = useMemo(
    () => ({
      animation: false,
      grid: { left: 34, right: 44, top: 10, bottom: 26 },
      textStyle: { fontFamily: 'Atkinson Hyperlegible Next Variable, sans-serif', color: '#565b61' },
      xAxis: { type: 'category' as const, data: offsetsMs.map((_, index) => index + 1), name: 'note' },
      yAxis: {
        type: 'value' as const,
        name: 'ms',
        scale: true,
        splitLine: { lineStyle: { color: '#d9d0bd' } },
      },
      tooltip: { trigger: 'item' as const },
      series: [
        {
          type: 'scatter' as const,
          symbolSize: 7,
          itemStyle: { color: '#2f4c8c' },
          data: offsetsMs.map((offset) => Math.round(offset * 10) / 10),
          markLine: {
            symbol: 'none',
            silent: true,
            label: { formatter: '{b}', fontSize: 10 },
            data: [
              { yAxis: medianMs, name: 'median', lineStyle: { color: '#1f2328', type: 'solid' as const } },
              { yAxis: medianMs - spreadMs / 2, lineStyle: { color: '#8a6500' } },
              { yAxis: medianMs + spreadMs / 2, lineStyle: { color: '#8a6500' } },
              { yAxis: 0, name: 'click', lineStyle: { color: '#c92a14', type: 'solid' as const } },
            ],
          },
        },
      ],
    }),
    [offsetsMs, medianMs, spreadMs],
  )
  return (
    <Chart
      option={option}
      height={150}
      label={`${offsetsMs.length} notes against the click, median ${medianMs.toFixed(1)} milliseconds`}
    />
  )
}
