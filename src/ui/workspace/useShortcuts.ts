import { useEffect } from 'react'
import { epochNowMs } from '@/engine/clock'
import { takesText } from '@/engine/midiInput/takesText'
import { useSession } from './sessionContext'
import { goTo, steps } from './viewStore'

/** Keys that work in every step. Letters stay free for playing, so commands use space, Enter, digits and Ctrl. */
export function useShortcuts(): void {
  const session = useSession()
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      // Somebody nearer has taken it: Escape closes what is open, and only that.
      if (event.defaultPrevented) return
      const target = event.target as HTMLElement
      const withCommand = event.ctrlKey || event.metaKey
      // A list that was just chosen from keeps the keyboard: it wants letters, and no commands.
      const isCommandInList = target.closest('select') !== null && (withCommand || event.shiftKey)
      if (takesText(target) && !isCommandInList) return
      if (withCommand && event.code === 'KeyZ') {
        event.preventDefault()
        if (event.shiftKey) session.redo()
        else session.undo()
        return
      }
      if (withCommand || event.altKey) return
      const { transport } = session.live.getState()
      if (event.code === 'Space' && !target.closest('button, a, [role="slider"], input[type="checkbox"]')) {
        event.preventDefault()
        if (transport.state === 'stopped') void session.playOn()
        else session.stop(event)
      } else if (event.code === 'Home' && !target.closest('input')) {
        event.preventDefault()
        session.seek(0)
      } else if (event.key === 'Escape') {
        // It is pressed without thinking: what is being recorded goes on.
        const isRecorded = transport.state === 'recording' && transport.startedAtMs <= epochNowMs()
        if (isRecorded) session.hush()
        else session.panic()
      } else if (event.shiftKey && event.code === 'KeyR') {
        event.preventDefault()
        if (transport.state === 'recording' || transport.state === 'waiting') session.stop(event)
        else void session.record()
      } else if (/^Digit[1-6]$/.test(event.code) && !event.shiftKey)
        goTo(steps[Number(event.code.slice(5)) - 1]!)
    }
    window.addEventListener('keydown', onKeyDown)
    return () => window.removeEventListener('keydown', onKeyDown)
  }, [session])
}
