import { ChevronDown, ChevronRight } from 'lucide-react'
import { useEffect, useState } from 'react'
import type { OperationGroup } from '@/core/editing/operation'
import { operationGroups } from '@/core/editing/operation'
import { type OperationName, operationNames, operations } from '@/core/editing/operations'
import type { Fields, SettingsOf } from '@/core/effects/settings'
import { editedWords } from '@/core/project/editNotes'
import type { Project, Track } from '@/core/project/schema'
import { Button } from '../../controls/Button'
import { Choice } from '../../controls/Choice'
import { FieldControl } from '../../effects/FieldControl'
import { useSession, useView } from '../../workspace/sessionContext'
import { viewStore } from '../../workspace/viewStore'
import { doOperation, forgetTried, keepSettings, settingsFor, tryOperation } from '../useNoteEdits'
import { SelectBench } from './SelectBench'

/** What is typed or dragged further takes the place of what was asked: so long is waited for it. */
const previewAfterMs = 120

const groupTitles: Record<OperationGroup, string> = {
  time: 'Time',
  length: 'Length',
  pitch: 'Pitch',
  force: 'Force',
  clean: 'Clean up',
}

/** Everything that can be done to notes: what is open shows its settings, and what it would take out before it does. */
export function EditBench({ track, project }: { track: Track; project: Project }) {
  const [openName, setOpenName] = useState<OperationName | null>('quantise')
  return (
    <section aria-label="Edit notes">
      <SelectBench track={track} project={project} />
      {operationGroups.map((group) => (
        <div key={group} className="mt-2">
          <h3 className="border-b border-rule text-[12px] font-semibold text-soft">{groupTitles[group]}</h3>
          <ul>
            {operationNames
              .filter((name) => operations[name].group === group)
              .map((name) => {
                const isOpen = openName === name
                const { title, says } = operations[name]
                return (
                  <li key={name}>
                    <button
                      type="button"
                      aria-expanded={isOpen}
                      title={says}
                      className="flex w-full items-center gap-1 rounded px-1 py-[3px] text-left text-[13px] hover:bg-desk"
                      onClick={() => setOpenName(isOpen ? null : name)}
                    >
                      {isOpen ? (
                        <ChevronDown size={13} aria-hidden />
                      ) : (
                        <ChevronRight size={13} className="text-soft" aria-hidden />
                      )}
                      <span className={isOpen ? 'font-semibold' : ''}>{title}</span>
                    </button>
                    {isOpen && <OperationForm name={name} track={track} project={project} />}
                  </li>
                )
              })}
          </ul>
        </div>
      ))}
    </section>
  )
}

function OperationForm({ name, track, project }: { name: OperationName; track: Track; project: Project }) {
  const session = useSession()
  const selected = useView((state) => state.noteIds)
  const timingTrackId = useView((state) => state.timingTrackId)
  const [settings, setSettings] = useState<SettingsOf<Fields>>(() => settingsFor(name))
  const operation = operations[name]
  const [preview, setPreview] = useState('')
  const others = project.tracks.filter(({ id }) => id !== track.id)

  const lacksTiming = operation.needsTiming && !others.some(({ id }) => id === timingTrackId)
  // What would be done is said before it is; the press then has nothing left to work out.
  // biome-ignore lint/correctness/useExhaustiveDependencies: tried again for another selection and timing
  useEffect(() => {
    setPreview('')
    if (lacksTiming) return
    const wait = setTimeout(() => {
      const result = tryOperation(session, project, track, name, settings)
      setPreview(
        result.changed > 0 || result.left > 0
          ? `would be: ${editedWords(name, result)}`
          : operation.balance === 'shrinks'
            ? 'nothing there to take out'
            : 'nothing would change',
      )
    }, previewAfterMs)
    return () => {
      clearTimeout(wait)
      forgetTried()
    }
  }, [session, project, track, name, settings, operation, selected, lacksTiming, timingTrackId])

  const change = (field: string, value: SettingsOf<Fields>[string]) => {
    const next = { ...settings, [field]: value }
    keepSettings(name, next)
    setSettings(next)
  }
  return (
    <div className="space-y-1.5 pb-2 pl-5 text-[13px]">
      <p className="text-[12px] text-soft">{operation.says}</p>
      {Object.entries(operation.fields).map(([fieldName, field]) => (
        <FieldControl
          key={fieldName}
          field={field}
          value={settings[fieldName]!}
          onChange={(value) => change(fieldName, value)}
        />
      ))}
      {operation.needsTiming && (
        <Choice
          label="of"
          value={timingTrackId ?? ''}
          options={[
            { value: '', text: 'choose a track' },
            ...others.map(({ id, name: text }) => ({ value: id, text })),
          ]}
          onChange={(id) => viewStore.setState({ timingTrackId: id === '' ? null : id })}
        />
      )}
      {preview && <p className="text-[12px] text-soft">{preview}</p>}
      <Button
        look="main"
        className="px-2.5 py-1"
        disabled={lacksTiming}
        onClick={() => doOperation(session, track, name, settings)}
      >
        {operation.title} {selected.size > 0 ? selected.size.toLocaleString('en') : 'all'}
      </Button>
    </div>
  )
}
