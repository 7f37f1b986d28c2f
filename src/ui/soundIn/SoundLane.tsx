import { Ear, FileAudio, Trash2 } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { stretchOf } from '@/core/capture/takeInfo'
import { contextOf } from '@/core/project/context'
import type { Track } from '@/core/project/schema'
import { traceStepMs } from '@/core/sound/keptSound'
import { Button } from '../controls/Button'
import { download } from '../controls/download'
import { fileSize } from '../controls/fileSize'
import { Tick } from '../controls/Tick'
import { useSize } from '../controls/useSize'
import { threadOf } from '../theme/threads'
import { paperColours, prepareCanvas } from '../tracks/canvas'
import { keyColumn } from '../tracks/roll/rollGeometry'
import { type TimeView, xOf } from '../tracks/timeView'
import { useProject, useSession } from '../workspace/sessionContext'
import type { TakeReading } from './ReadTakeAgain'
import type { TrackSound } from './useTrackSounds'

const heightPx = 54

/** Under the notes, the sound they were made of: seen, heard against them, read again, saved or let go. */
export function SoundLane({
  track,
  sounds,
  chosen,
  onChange,
  onRead,
  view,
}: {
  track: Track
  sounds: readonly TrackSound[]
  /** The one that is heard, read and saved. */
  chosen: TrackSound
  /** Some of it is gone. */
  onChange: () => void
  onRead: (reading: TakeReading) => void
  view: TimeView
}) {
  const session = useSession()
  const project = useProject()
  const { meterMap, tempoMap } = contextOf(project)
  const host = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const { width } = useSize(host)
  const [isAlong, setIsAlong] = useState(false)
  const [isLettingGo, setIsLettingGo] = useState(false)
  const byteLength = sounds.reduce((sum, { sound }) => sum + sound.byteLength, 0)

  useEffect(() => {
    if (!canvas.current || width <= 0) return
    const drawing = prepareCanvas(canvas.current, width, heightPx)
    drawing.fillStyle = threadOf(track.thread).colour
    for (const { sound, ticksAt } of sounds)
      for (const { startMs, peaks } of sound.outlines) {
        const from = xOf(view, ticksAt(startMs))
        const to = xOf(view, ticksAt(startMs + peaks.length * traceStepMs))
        if (to < 0 || from > width) continue
        const wide = (to - from) / peaks.length
        for (const [step, peak] of peaks.entries()) {
          const tall = Math.max(0.5, (peak / 255) ** 0.6 * (heightPx / 2 - 2))
          // Whole pixels: edges between would be drawn as stripes.
          const left = Math.floor(from + step * wide)
          const right = Math.max(left + 1, Math.floor(from + (step + 1) * wide))
          drawing.fillRect(left, heightPx / 2 - tall, right - left, 2 * tall)
        }
      }
    drawing.strokeStyle = paperColours.rule
    drawing.beginPath()
    drawing.moveTo(0, heightPx / 2)
    drawing.lineTo(width, heightPx / 2)
    drawing.stroke()
  })

  useEffect(() => {
    if (!isAlong) {
      session.backing.hearAlong(null)
      return
    }
    let isCurrent = true
    const prepare = async () => {
      const wav = await session.soundKeeping.wav(chosen.sound, stretchOf(chosen.take))
      const buffer = await new OfflineAudioContext(1, 1, 48_000).decodeAudioData(Uint8Array.from(wav).buffer)
      const offsetMs = tempoMap.msAt(chosen.ticksAt(chosen.take.anchorMs))
      if (isCurrent) session.backing.hearAlong({ buffer, offsetMs, level: 0.8 })
    }
    prepare().catch((error) => session.notify(`The sound cannot be heard: ${error.message ?? error}.`, true))
    return () => {
      isCurrent = false
      session.backing.hearAlong(null)
    }
  }, [isAlong, chosen, tempoMap, session])

  const { take, sound } = chosen
  const name = `${take.name}, ${sound.name}`
  const problem = (error: Error) =>
    session.notify(`The sound of ${name} cannot be read: ${error.message}.`, true)
  const save = async () =>
    download(`${name}.wav`, await session.soundKeeping.wav(sound, stretchOf(take)), 'audio/wav')
  const letGo = async () => {
    await session.soundKeeping.forget(sound.portId, take)
    setIsLettingGo(false)
    onChange()
    session.notify(`The sound of ${name} is gone; its notes are as they were.`, false)
  }
  /** From the bar line before the take, so that what is read comes in at a bar. */
  const read = async () => {
    const { index } = meterMap.measureAt(take.startTicks)
    const barMs = tempoMap.msAt(meterMap.measure(index).startTicks)
    const leadMs = Math.max(0, tempoMap.msAt(take.startTicks) - barMs)
    const wav = await session.soundKeeping.wav(sound, stretchOf(take), leadMs)
    const file = new File([Uint8Array.from(wav)], `${name}.wav`, { type: 'audio/wav' })
    const player = project.sources.find(({ address }) => address.portId === sound.portId)
    const preset = player?.soundInput?.preset ?? 'any'
    onRead({ file, atBar: index + 1, preset, tempoBpm: tempoMap.tempoAt(take.startTicks) })
  }
  return (
    <section aria-label="Sound" className="shrink-0 border-t border-rule">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 bg-desk px-2 py-0.5 text-[12px]">
        <span className="text-soft" data-testid="kept-sound">
          sound of {name}, {Math.round(take.durationMs / 1000)} s, {fileSize(byteLength)}
        </span>
        <Tick isOn={isAlong} onChange={setIsAlong}>
          <span className="text-[12px]">hear it with the notes</span>
        </Tick>
        <span className="ml-auto flex gap-1">
          <Button
            look="quiet"
            className="px-1.5 py-0.5 text-[12px]"
            onClick={() => void read().catch(problem)}
          >
            <Ear size={13} aria-hidden /> Read it again
          </Button>
          <Button
            look="quiet"
            className="px-1.5 py-0.5 text-[12px]"
            onClick={() => void save().catch(problem)}
          >
            <FileAudio size={13} aria-hidden /> Save it
          </Button>
          {isLettingGo ? (
            <>
              <span className="self-center">For good? The notes stay.</span>
              <Button className="px-1.5 py-0.5 text-[12px]" onClick={() => void letGo().catch(problem)}>
                Let go of it
              </Button>
              <Button
                look="quiet"
                className="px-1.5 py-0.5 text-[12px]"
                onClick={() => setIsLettingGo(false)}
              >
                Keep it
              </Button>
            </>
          ) : (
            <Button
              look="quiet"
              className="px-1.5 py-0.5"
              aria-label={`Let go of the sound of ${name}`}
              title="Let go of the sound; the notes stay"
              onClick={() => setIsLettingGo(true)}
            >
              <Trash2 size={13} aria-hidden />
            </Button>
          )}
        </span>
      </div>
      <div
        ref={host}
        className="relative overflow-hidden"
        style={{ marginLeft: keyColumn, height: heightPx }}
        role="img"
        aria-label={`The sound of ${name} over time`}
      >
        <canvas ref={canvas} className="absolute top-0 left-0" aria-hidden />
      </div>
    </section>
  )
}
