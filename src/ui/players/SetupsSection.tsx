import { useCallback, useEffect, useState } from 'react'
import { applyTemplate, type Template, templateOf } from '@/core/project/template'
import { findPortsByName } from '@/core/wiring/portsInUse'
import { deleteTemplate, listTemplates, saveTemplate } from '@/state/rig'
import { Button } from '../controls/Button'
import { Section } from '../controls/Section'
import { useLive, useProject, useSession } from '../workspace/sessionContext'

/** Whole connection set-ups, saved under a name and used again in another project. */
export function SetupsSection() {
  const session = useSession()
  const project = useProject()
  const midi = useLive((state) => state.midi)
  const [templates, setTemplates] = useState<readonly Template[]>([])
  const [name, setName] = useState('')
  const [removed, setRemoved] = useState<Template | null>(null)
  const refresh = useCallback(async () => {
    const { templates: found, unreadable } = await listTemplates()
    setTemplates(found)
    if (unreadable.length > 0)
      session.notify(`A saved set-up cannot be used: ${unreadable[0]}. Nothing of it was deleted.`, true)
  }, [session])
  const attempt = (work: () => Promise<void>) =>
    work()
      .then(refresh)
      .catch((error) => session.notify(`The set-ups could not be changed: ${error.message ?? error}.`, true))
  useEffect(() => {
    refresh().catch((error) => session.notify(`The set-ups cannot be read: ${error.message ?? error}.`, true))
  }, [refresh, session])
  const save = () =>
    attempt(async () => {
      await saveTemplate(
        templateOf(project, crypto.randomUUID(), name.trim() || `As in ${project.name}`, Date.now()),
      )
      setName('')
    })
  const use = (template: Template) =>
    session.store.getState().apply(`set up as “${template.name}”`, (before) => {
      const next = applyTemplate(before, template)
      return midi.state === 'ready' ? findPortsByName(next, midi.ports) : next
    })
  return (
    <Section title="Set-ups" state={templates.length === 0 ? 'none saved' : `${templates.length} saved`}>
      <form
        className="flex gap-1.5"
        onSubmit={(event) => {
          event.preventDefault()
          void save()
        }}
      >
        <input
          className="min-w-0 flex-1 rounded border border-rule bg-sheet px-1.5 py-1"
          aria-label="Name for this set-up"
          placeholder={`As in ${project.name}`}
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" disabled={project.sources.length === 0}>
          Save this set-up
        </Button>
      </form>
      <ul className="space-y-1">
        {templates.map((template) => (
          <li key={template.id} className="flex items-center gap-1.5">
            <span className="min-w-0 flex-1 truncate">
              <span className="font-serif font-semibold">{template.name}</span>{' '}
              <span className="text-[12px] text-soft">
                {template.sources.length} {template.sources.length === 1 ? 'source' : 'sources'}
              </span>
            </span>
            <Button className="px-2 py-0.5 text-[12px]" onClick={() => use(template)}>
              Use
            </Button>
            <Button
              look="quiet"
              className="px-1.5 py-0.5 text-[12px]"
              aria-label={`Throw the set-up ${template.name} away`}
              onClick={() =>
                void attempt(async () => {
                  await deleteTemplate(template.id)
                  setRemoved(template)
                })
              }
            >
              throw away
            </Button>
          </li>
        ))}
      </ul>
      {removed && (
        <p className="flex items-center justify-between text-[12px]" role="status">
          “{removed.name}” is thrown away.
          <Button
            className="px-2 py-0.5 text-[12px]"
            onClick={() =>
              void attempt(async () => {
                await saveTemplate(removed)
                setRemoved(null)
              })
            }
          >
            Undo
          </Button>
        </p>
      )}
    </Section>
  )
}
