import { useEffect, useState } from 'react'
import { Button } from '../controls/Button'

/** What takes no longer than this needs no word. */
const toldAfterMs = 1000

/** Says that a file is being read, and for how long already, when that takes more than a moment; and stops it. */
export function ReadingStatus({ fileName, onStop }: { fileName: string; onStop: () => void }) {
  const [seconds, setSeconds] = useState(0)
  useEffect(() => {
    const timer = setInterval(() => setSeconds((before) => before + 1), toldAfterMs)
    return () => clearInterval(timer)
  }, [])
  if (seconds === 0) return null
  return (
    <p role="status" className="mt-5 flex flex-wrap items-center gap-3 text-[14px]">
      <span>
        Reading “{fileName}”: {seconds} s.
      </span>
      <Button className="px-2 py-0.5 text-[12px]" onClick={onStop}>
        Stop
      </Button>
    </p>
  )
}
