import { keyAt } from '@/core/notation/score'
import { contextOf } from '@/core/project/context'
import { setKeyAt } from '@/core/project/keyEdits'
import type { Project } from '@/core/project/schema'
import { setMeterAt } from '@/core/project/tempoEdits'
import type { WrittenPlace } from '@/engine/engraver/choosing'
import { Choice } from '../controls/Choice'
import { meterFrom, meterOptions } from '../workspace/meterOptions'
import { useSession } from '../workspace/sessionContext'
import { everyKey, keyFromText, keyText } from './keyOptions'
import type { Pen } from './usePen'

const barLines = ['double', 'final', 'dashed', 'dotted'] as const

/** Key, meter and bar line of the bar of what is chosen. */
export function BarSettings({ project, place, pen }: { project: Project; place: WrittenPlace; pen: Pen }) {
  const session = useSession()
  const { outline } = session.engraving.state.getState()
  const keys = project.keys.length > 0 ? project.keys : (outline?.keys ?? [])
  const key = keys.length > 0 ? keyAt(keys, place.onsetTicks) : null
  const { numerator, denominator, startTicks } = contextOf(project).meterMap.measureAt(place.onsetTicks)
  const meter = `${numerator}/${denominator}`
  const barLine = project.amendments.find((each) => each.aspect === 'barLine' && each.tick === startTicks)
  return (
    <div className="mb-2 space-y-2">
      {key && (
        <Choice
          label="Key"
          value={keyText(key)}
          options={everyKey}
          onChange={(text) =>
            session.store.getState().apply('key', (before) => {
              // Keys that were heard stay where they are: one is told beside them.
              const told = before.keys.length > 0 ? before : { ...before, keys: [...keys] }
              return setKeyAt(told, place.onsetTicks, keyFromText(text))
            })
          }
        />
      )}
      <Choice
        label="Meter"
        value={meter}
        options={meterOptions(meter).map((each) => ({ value: each, text: each }))}
        onChange={(text) =>
          session.store.getState().apply('meter', (before) => setMeterAt(before, startTicks, meterFrom(text)))
        }
      />
      <Choice
        label="Line behind it"
        value={barLine?.aspect === 'barLine' ? barLine.style : ''}
        options={[
          { value: '', text: 'as usual' },
          ...barLines.map((style) => ({ value: style, text: style })),
        ]}
        onChange={(style) => pen.write('bar line', { to: 'barLine', style: style === '' ? null : style })}
      />
    </div>
  )
}
