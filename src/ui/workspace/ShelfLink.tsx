import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { AlertDialog } from 'radix-ui'
import { useEffect, useState } from 'react'
import { Button } from '../controls/Button'
import { rescue } from './rescue'
import { useSession } from './sessionContext'

const listed = new Intl.ListFormat('en', { type: 'conjunction' })

/** The way back to the shelf. What is not stored is asked about first, here and at every other way out of the piece. */
export function ShelfLink() {
  const session = useSession()
  const router = useRouter()
  /** Where to, while that is asked. */
  const [wanted, setWanted] = useState<string | null>(null)
  const [isSaved, setSaved] = useState(false)

  useEffect(() => {
    const onUnload = (event: BeforeUnloadEvent) => {
      if (session.unstored().length > 0) event.preventDefault()
    }
    // The browser’s own ways, where it says so beforehand (Navigation API, WHATWG HTML) and lets itself be held: once for each press.
    const onNavigate = (event: NavigateEvent) => {
      const to = new URL(event.destination.url)
      const isLeaving = event.navigationType === 'traverse' && to.pathname !== location.pathname
      if (!isLeaving || !event.cancelable || session.unstored().length === 0) return
      event.preventDefault()
      setWanted(to.pathname + to.search)
    }
    window.addEventListener('beforeunload', onUnload)
    window.navigation?.addEventListener('navigate', onNavigate)
    return () => {
      window.removeEventListener('beforeunload', onUnload)
      window.navigation?.removeEventListener('navigate', onNavigate)
    }
  }, [session])

  const words = wanted === null ? [] : session.unstored()
  return (
    <>
      <Link
        href="/"
        className="underline-offset-2 hover:underline"
        onClick={(event) => {
          const isElsewhere = event.metaKey || event.ctrlKey || event.shiftKey
          if (isElsewhere || session.unstored().length === 0) return
          event.preventDefault()
          setWanted('/')
        }}
      >
        Shelf
      </Link>
      <AlertDialog.Root
        open={wanted !== null}
        onOpenChange={(isOpen) => {
          if (!isOpen) setWanted(null)
          setSaved(false)
        }}
      >
        <AlertDialog.Portal>
          <AlertDialog.Overlay className="fixed inset-0 z-50 bg-ink/30" />
          <AlertDialog.Content className="fixed inset-x-3 top-[20vh] z-50 mx-auto max-w-[520px] rounded-lg border border-[#b9ad93] bg-paper px-6 py-5 shadow-lg">
            <AlertDialog.Title className="font-serif text-xl font-semibold">
              {words.length > 0 ? 'Not everything of this piece is stored' : 'Everything is in the file'}
            </AlertDialog.Title>
            <AlertDialog.Description className="mt-2">
              {words.length > 0
                ? `Only in the memory of this tab: ${listed.format(words)}. Whoever leaves now loses it.${isSaved ? ' The rest is in the file.' : ''}`
                : 'It can be opened from the shelf with “Bring in a file”.'}
            </AlertDialog.Description>
            <div className="mt-4 flex flex-wrap justify-end gap-2">
              <AlertDialog.Cancel asChild>
                <Button>Stay</Button>
              </AlertDialog.Cancel>
              {!isSaved && (
                <Button look="main" onClick={() => void rescue(session).then(setSaved)}>
                  Save it to a file
                </Button>
              )}
              <AlertDialog.Action asChild>
                <Button look={words.length > 0 ? 'live' : 'plain'} onClick={() => router.push(wanted ?? '/')}>
                  {words.length > 0 ? 'Leave and lose it' : 'Leave'}
                </Button>
              </AlertDialog.Action>
            </div>
          </AlertDialog.Content>
        </AlertDialog.Portal>
      </AlertDialog.Root>
    </>
  )
}
