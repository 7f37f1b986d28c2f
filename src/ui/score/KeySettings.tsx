import { useState } from 'react'
import { keySignatureName } from '@/core/notation/keyFinding'
import type { KeyChange } from '@/core/notation/scoreSettings'
import { contextOf } from '@/core/project/context'
import { removeKeyAt, setKeyAt } from '@/core/project/keyEdits'
import type { Project } from '@/core/project/schema'
import { setPiece } from '@/core/project/settings'
import { Button } from '../controls/Button'
import { ChangeAtBar } from '../controls/ChangeAtBar'
import { Choice } from '../controls/Choice'
import { NumberField } from '../controls/NumberField'
import { useSession } from '../workspace/sessionContext'
import { everyKey, keyFromText, keyText } from './keyOptions'

/** The key signatures of the piece: heard from the notes, or told, each from its bar on. */
export function KeySettings({ project, heard }: { project: Project; heard: readonly KeyChange[] | null }) {
  const session = useSession()
  const [bar, setBar] = useState(9)
  const apply = session.store.getState().apply
  const { keys } = project
  const { meterMap } = contextOf(project)
  const barOf = (tick: number) => meterMap.measureAt(tick).index + 1
  const shown = keys.length > 0 ? keys : (heard ?? [])
  return (
    <div className="space-y-1.5">
      <Choice
        label="Key"
        value={keys[0] ? keyText(keys[0]) : 'heard'}
        options={[
          {
            value: 'heard',
            text: heard?.[0] && keys.length === 0 ? `${keySignatureName(heard[0])}, heard` : 'as heard',
          },
          ...everyKey,
        ]}
        onChange={(value) =>
          apply('key', (before) =>
            value === 'heard' ? setPiece(before, { keys: [] }) : setKeyAt(before, 0, keyFromText(value)),
          )
        }
      />
      {shown.length > 1 && (
        <ul className="space-y-1 pl-3" aria-label="Changes of key">
          {shown.slice(1).map((change) => (
            <ChangeAtBar
              key={change.tick}
              bar={barOf(change.tick)}
              of="key"
              onRemove={
                keys.length > 0
                  ? () => apply('take a key out', (before) => removeKeyAt(before, change.tick))
                  : undefined
              }
            >
              {keys.length === 0 ? (
                <span>{keySignatureName(change)}, heard</span>
              ) : (
                <Choice
                  label={`key from bar ${barOf(change.tick)}`}
                  isLabelHidden
                  value={keyText(change)}
                  options={everyKey}
                  onChange={(value) =>
                    apply('key', (before) => setKeyAt(before, change.tick, keyFromText(value)))
                  }
                />
              )}
            </ChangeAtBar>
          ))}
        </ul>
      )}
      <div className="flex items-center gap-2 text-[13px]">
        <NumberField label="from bar" value={bar} min={2} max={9999} className="w-12" onChange={setBar} />
        <Button
          className="px-2 py-0.5 text-[12px]"
          onClick={() =>
            apply('change of key', (before) => {
              // What was heard so far is kept as it is heard now.
              const told = before.keys.length > 0 ? before : setPiece(before, { keys: [...(heard ?? [])] })
              const tick = meterMap.measure(bar - 1).startTicks
              const { fifths, mode } = told.keys.findLast((key) => key.tick <= tick) ?? {
                fifths: 0,
                mode: 'major',
              }
              return setKeyAt(told, tick, { fifths: fifths < 7 ? fifths + 1 : fifths - 1, mode })
            })
          }
        >
          Another key
        </Button>
      </div>
    </div>
  )
}
