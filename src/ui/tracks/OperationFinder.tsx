import { Command } from 'cmdk'
import { useEffect } from 'react'
import { operationNames, operations } from '@/core/editing/operations'
import type { Track } from '@/core/project/schema'
import { takesText } from '@/engine/midiInput/takesText'
import { useSession, useView } from '../workspace/sessionContext'
import { benches, viewStore } from '../workspace/viewStore'
import { benchTitles } from './bench/TrackBench'
import { doOperation, useNoteEdits } from './useNoteEdits'
import { useVoiceEdits } from './useVoiceEdits'

/** Everything that can be done to notes, by its name: typed and chosen without a pointer. Opened by the slash key. */
export function OperationFinder({ track }: { track: Track }) {
  const session = useSession()
  const isOpen = useView((state) => state.isFinding)
  const selected = useView((state) => state.noteIds)
  const edits = useNoteEdits(track)
  const { putSelected, carryOnFrom } = useVoiceEdits(track)
  const setOpen = (isFinding: boolean) => viewStore.setState({ isFinding })

  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if (event.key !== '/' || event.defaultPrevented || takesText(event.target)) return
      event.preventDefault()
      viewStore.setState({ isFinding: true })
    }
    window.addEventListener('keydown', onKeyDown)
    return () => window.removeEventListener('keydown', onKeyDown)
  }, [])

  const items: readonly { readonly title: string; readonly says: string; readonly run: () => void }[] = [
    ...operationNames.map((name) => ({
      title: operations[name].title,
      says: operations[name].says,
      run: () => doOperation(session, track, name),
    })),
    { title: 'Double behind', says: 'a copy right behind what is selected', run: edits.double },
    { title: 'Hear what is selected', says: 'and nothing else', run: () => edits.hear() },
    { title: 'Hear it over and over', says: 'what is selected, in a loop', run: () => edits.hear(true) },
    ...[1, 2, 3, 4].map((voice) => ({
      title: `Into voice ${voice}`,
      says: 'what is selected belongs to it',
      run: () => putSelected(selected, voice),
    })),
    { title: 'Carry the correction on', says: 'through the notes that follow', run: carryOnFrom },
    ...benches.map((bench) => ({
      title: `Open: ${benchTitles[bench]}`,
      says: 'beside the roll',
      run: () => viewStore.setState({ bench }),
    })),
  ]
  return (
    <Command.Dialog
      open={isOpen}
      onOpenChange={setOpen}
      label="Everything that can be done"
      overlayClassName="fixed inset-0 z-40 bg-ink/20"
      contentClassName="fixed top-24 left-1/2 z-50 w-[480px] max-w-[94vw] -translate-x-1/2 rounded-lg border border-[#b9ad93] bg-paper shadow-lg"
    >
      <Command.Input
        placeholder={`What is to be done to ${selected.size > 0 ? `${selected.size.toLocaleString('en')} notes` : track.name}?`}
        className="w-full border-b border-rule bg-transparent px-4 py-2.5 text-[15px] outline-none"
      />
      <Command.List className="max-h-[50vh] overflow-y-auto p-1.5 text-[13px]">
        <Command.Empty className="px-3 py-2 text-soft">Nothing goes by that name.</Command.Empty>
        {items.map(({ title, says, run }) => (
          <Command.Item
            key={title}
            value={`${title} ${says}`}
            className="flex cursor-pointer items-baseline gap-2 rounded px-3 py-1 data-[selected=true]:bg-desk"
            onSelect={() => {
              setOpen(false)
              run()
            }}
          >
            <span className="font-semibold whitespace-nowrap">{title}</span>
            <span className="truncate text-soft">{says}</span>
          </Command.Item>
        ))}
      </Command.List>
    </Command.Dialog>
  )
}
