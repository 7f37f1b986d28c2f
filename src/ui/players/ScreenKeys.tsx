import { useEffect, useRef } from 'react'
import { keyName } from '@/core/event/note'
import { epochNowMs } from '@/engine/clock'
import { computerKeyboardPortId } from '@/engine/midiInput/computerKeyboard'
import { useLive, useSession } from '../workspace/sessionContext'

const octaves = 3
const isBlack = (key: number) => [1, 3, 6, 8, 10].includes(key % 12)

/**
 * Keys to press with a mouse or with several fingers. They play as the computer keyboard does, from the same lowest
 * octave; pressed further down a key sounds louder.
 */
export function ScreenKeys() {
  const session = useSession()
  const { lowestKey } = useLive((state) => state.keyboard)
  const down = useRef(new Map<number, number>())
  const first = Math.max(0, lowestKey - 12)
  const keys = Array.from({ length: octaves * 12 + 1 }, (_, index) => first + index).filter(
    (key) => key <= 127,
  )
  const white = keys.filter((key) => !isBlack(key))

  useEffect(() => {
    const held = down.current
    return () => {
      for (const key of held.values()) send(session, 0x80, key, 64)
      held.clear()
    }
  }, [session])

  const press = (event: React.PointerEvent<HTMLButtonElement>, key: number) => {
    event.currentTarget.setPointerCapture(event.pointerId)
    const box = event.currentTarget.getBoundingClientRect()
    const depth = (event.clientY - box.top) / box.height
    down.current.set(event.pointerId, key)
    send(session, 0x90, key, Math.max(30, Math.min(120, Math.round(40 + depth * 80))))
  }
  const release = (event: React.PointerEvent<HTMLButtonElement>) => {
    const key = down.current.get(event.pointerId)
    if (key === undefined) return
    down.current.delete(event.pointerId)
    send(session, 0x80, key, 64)
  }
  const keyButton = (key: number, className: string, style: React.CSSProperties) => (
    <button
      key={key}
      type="button"
      tabIndex={-1}
      aria-label={`Play ${keyName(key)}`}
      className={`absolute touch-none select-none ${className}`}
      style={style}
      onPointerDown={(event) => press(event, key)}
      onPointerUp={release}
      onPointerCancel={release}
      onLostPointerCapture={release}
    >
      {key % 12 === 0 && (
        <span className="absolute right-0 bottom-0.5 left-0 text-[10px] text-soft">{keyName(key)}</span>
      )}
    </button>
  )
  const width = 100 / white.length
  return (
    <section
      aria-label="Keys on the screen"
      className="relative h-[92px] overflow-hidden rounded-md border border-rule bg-desk"
    >
      {white.map((key, index) =>
        keyButton(key, 'top-0 h-full border-r border-rule bg-sheet active:bg-[#dfe3ee]', {
          left: `${index * width}%`,
          width: `${width}%`,
        }),
      )}
      {keys.filter(isBlack).map((key) => {
        const before = white.filter((each) => each < key).length
        return keyButton(key, 'top-0 z-10 h-[58%] rounded-b bg-ink active:bg-indigo', {
          left: `${before * width - width * 0.3}%`,
          width: `${width * 0.6}%`,
        })
      })}
    </section>
  )
}

function send(session: ReturnType<typeof useSession>, status: number, data1: number, data2: number): void {
  session.input({
    portId: computerKeyboardPortId,
    timeMs: epochNowMs(),
    status,
    data1,
    data2,
  })
}
