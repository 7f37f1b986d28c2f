import { useState } from 'react'
import { useStore } from 'zustand'
import { readCable } from '@/core/project/settings'
import { cablePortId } from '@/core/routing/ports'
import { printCable, sendersTo } from '@/core/wiring/printCable'
import { Button } from '../controls/Button'
import { Section } from '../controls/Section'
import { Tick } from '../controls/Tick'
import { useLive, useProject, useSession } from '../workspace/sessionContext'
import { goTo, selectTrack } from '../workspace/viewStore'

/** The virtual cables to other programs: which are read, who reads what is written to them. */
export function CablesSection() {
  const session = useSession()
  const project = useProject()
  const { names } = useStore(session.cables.store)
  const readers = useLive((state) => state.cableReaders)
  const streams = useLive((state) => state.streams)
  const [draft, setDraft] = useState('')
  const apply = session.store.getState().apply
  const all = [...new Set([...names, ...project.cables])]
  const isInUse = (name: string) =>
    project.cables.includes(name) ||
    project.sources.some((source) => source.address.portId === cablePortId(name)) ||
    project.tracks.some((track) => track.sendTo?.portId === cablePortId(name))
  const sends = (name: string) => {
    const { tracks, generators } = sendersTo(project, name)
    return tracks.length + generators.length > 0
  }
  const print = (name: string) => {
    let printed: readonly string[] = []
    apply(`print the cable ${name}`, (before) => {
      const result = printCable(before, name, before.recording.stretch)
      printed = result.printedTrackIds
      return result.project
    })
    if (!printed[0]) {
      session.notify(
        `Nothing goes out over ${name}${project.recording.stretch ? ' in the marked stretch' : ''}.`,
      )
      return
    }
    selectTrack(printed[0])
    goTo('tracks')
  }
  const add = async () => {
    if (draft.trim() === '') return
    const name = await session.cables.add(draft)
    setDraft('')
    apply(`read the cable ${name}`, (before) => readCable(before, name, true))
  }
  return (
    <Section
      title="Cables"
      state={
        project.cables.length === 0
          ? 'none read'
          : `${project.cables.length} ${project.cables.length === 1 ? 'is' : 'are'} read`
      }
    >
      <p className="text-[12px] text-soft">
        A cable joins programs by its name, 16 channels each, also between tabs. What plays on a cable that is
        read takes seats at its first note.
      </p>
      <ul className="space-y-2">
        {all.map((name) => {
          const channels = streams.filter((stream) => stream.portId === cablePortId(name)).length
          const programs = readers[name] ?? []
          return (
            <li key={name} className="rounded-md border border-rule bg-sheet px-2 py-1">
              <div className="flex items-center justify-between gap-2">
                <span className="truncate font-serif font-semibold">{name}</span>
                <Tick
                  isOn={project.cables.includes(name)}
                  onChange={(isRead) =>
                    apply(isRead ? `read the cable ${name}` : `read ${name} no more`, (before) =>
                      readCable(before, name, isRead),
                    )
                  }
                >
                  read
                </Tick>
              </div>
              <p className="text-[12px] text-soft">
                {channels > 0 && `${channels} ${channels === 1 ? 'channel' : 'channels'} heard. `}
                {programs.length > 0 && `Read by ${programs.join(', ')}. `}
                <a
                  className="underline underline-offset-2"
                  href={`/programs/sender?cable=${encodeURIComponent(name)}`}
                  target="_blank"
                  rel="noopener"
                >
                  open a sender
                </a>{' '}
                ·{' '}
                <a
                  className="underline underline-offset-2"
                  href={`/programs/receiver?cable=${encodeURIComponent(name)}`}
                  target="_blank"
                  rel="noopener"
                >
                  open a receiver
                </a>
                {sends(name) && (
                  <>
                    {' '}
                    ·{' '}
                    <button
                      type="button"
                      className="underline underline-offset-2"
                      title="What this piece sends over the cable becomes ordinary notes, a track for each channel"
                      onClick={() => print(name)}
                    >
                      print what goes out
                    </button>
                  </>
                )}
                {!isInUse(name) && names.indexOf(name) > 0 && (
                  <>
                    {' '}
                    ·{' '}
                    <button
                      type="button"
                      className="underline underline-offset-2"
                      onClick={() => void session.cables.remove(name)}
                    >
                      take away
                    </button>
                  </>
                )}
              </p>
            </li>
          )
        })}
      </ul>
      <form
        className="flex gap-1.5"
        onSubmit={(event) => {
          event.preventDefault()
          void add()
        }}
      >
        <input
          className="min-w-0 flex-1 rounded border border-rule bg-sheet px-1.5 py-1"
          aria-label="Name of a new cable"
          placeholder="Name of a new cable"
          maxLength={80}
          value={draft}
          onChange={(event) => setDraft(event.target.value)}
        />
        <Button type="submit" disabled={draft.trim() === ''}>
          Lay it
        </Button>
      </form>
    </Section>
  )
}
