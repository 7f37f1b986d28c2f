import { ChevronDown } from 'lucide-react'
import { Select } from 'radix-ui'
import { useState } from 'react'
import { programNames } from '@/core/midi/generalMidi'
import type { Instrument } from '@/core/midi/instrument'

const drumKitName = 'Standard drum kit'
const noInstrumentName = 'No instrument'

/** The name of an instrument as it is shown. */
export function instrumentName(instrument: Instrument): string {
  switch (instrument.kind) {
    case 'drums':
      return drumKitName
    case 'none':
      return noInstrumentName
    case 'program':
      return programNames[instrument.program]!
  }
}

function choiceOf(instrument: Instrument): string {
  return instrument.kind === 'program' ? String(instrument.program) : instrument.kind
}

function instrumentOf(value: string): Instrument {
  return value === 'drums' || value === 'none' ? { kind: value } : { kind: 'program', program: Number(value) }
}

const choices: readonly Instrument[] = [
  ...[...programNames.keys()].map((program) => ({ kind: 'program' as const, program })),
  { kind: 'drums' },
  { kind: 'none' },
]

/** The General MIDI instruments. The list exists only while it is open: a hundred entries for each track would be felt. */
export function InstrumentChoice({
  label,
  instrument,
  onChange,
}: {
  label: string
  instrument: Instrument
  onChange: (instrument: Instrument) => void
}) {
  const [isOpen, setOpen] = useState(false)
  return (
    <Select.Root
      value={choiceOf(instrument)}
      onValueChange={(value) => onChange(instrumentOf(value))}
      open={isOpen}
      onOpenChange={setOpen}
    >
      <Select.Trigger
        aria-label={label}
        className="flex min-w-0 flex-1 items-center justify-between gap-1 rounded border border-transparent px-1 text-[12px] text-soft hover:border-rule"
      >
        <span className="truncate">{instrumentName(instrument)}</span>
        <ChevronDown size={12} className="shrink-0" aria-hidden />
      </Select.Trigger>
      {isOpen && (
        <Select.Portal>
          <Select.Content
            position="popper"
            sideOffset={3}
            className="z-50 max-h-[60vh] overflow-y-auto rounded-md border border-[#b9ad93] bg-sheet py-1 text-[13px] shadow-lg"
          >
            <Select.Viewport>
              {choices.map((choice) => (
                <Select.Item
                  key={choiceOf(choice)}
                  value={choiceOf(choice)}
                  className="px-3 py-0.5 outline-none data-[highlighted]:bg-desk data-[state=checked]:font-bold"
                >
                  <Select.ItemText>{instrumentName(choice)}</Select.ItemText>
                </Select.Item>
              ))}
            </Select.Viewport>
          </Select.Content>
        </Select.Portal>
      )}
    </Select.Root>
  )
}
