import { CircleHelp, X } from 'lucide-react'
import { Dialog } from 'radix-ui'
import { useEffect, useState } from 'react'
import { takesText } from '@/engine/midiInput/takesText'
import { Button } from '../controls/Button'
import { HelpSheet } from './HelpSheet'

/** The help over whatever is going on, which goes on: opened by its button or by "?". */
export function HelpDialog() {
  const [isOpen, setOpen] = useState(false)
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if (event.key !== '?' || event.defaultPrevented || takesText(event.target)) return
      event.preventDefault()
      setOpen(true)
    }
    window.addEventListener('keydown', onKeyDown)
    return () => window.removeEventListener('keydown', onKeyDown)
  }, [])
  return (
    <Dialog.Root open={isOpen} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button className="px-2.5" title="Help (?)" aria-label="Help">
          <CircleHelp size={16} aria-hidden />
        </Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-50 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-x-2 top-4 bottom-4 z-50 mx-auto flex max-w-[920px] flex-col rounded-lg border border-[#b9ad93] bg-paper shadow-lg"
        >
          <div className="flex items-center justify-between border-b border-rule px-5 py-3">
            <Dialog.Title className="font-serif text-2xl font-semibold">Help</Dialog.Title>
            <Dialog.Close asChild>
              <Button look="quiet" className="px-2" aria-label="Close the help" title="Close (Escape)">
                <X size={16} aria-hidden />
              </Button>
            </Dialog.Close>
          </div>
          <div className="min-h-0 overflow-y-auto px-5 py-4 text-[13px]">
            <HelpSheet />
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
