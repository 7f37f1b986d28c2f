import { Ear, FileAudio, Trash2 } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { evenlyTold } from '@/core/capture/evenlyTold'
import { straightPieces } from '@/core/capture/straightPieces'
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
      for (const { startMs, peaks: whole } of sound.outlines) {
        const isSeen =
          xOf(view, ticksAt(startMs)) <= width &&
          xOf(view, ticksAt(startMs + whole.length * traceStepMs)) >= 0
        if (!isSeen) continue
        for (const piece of straightPieces(startMs, whole.length, traceStepMs, ticksAt)) {
          const from = xOf(view, piece.startTicks)
          const to = xOf(view, piece.endTicks)
          const peaks = whole.slice(piece.first, piece.first + piece.steps)
          // Whole pixels, each once: edges between would be drawn as stripes, and an hour has 360,000 peaks.
          for (let left = Math.floor(from); left < Math.max(to, from + 1); left++) {
            const first = Math.max(0, Math.floor(((left - from) / (to - from)) * peaks.length))
            const next = Math.max(first + 1, Math.floor(((left + 1 - from) / (to - from)) * peaks.length))
            let peak = 0
            for (let step = first; step < Math.min(next, peaks.length); step++)
              peak = Math.max(peak, peaks[step]!)
            const tall = Math.max(0.5, (peak / 255) ** 0.6 * (heightPx / 2 - 2))
            drawing.fillRect(left, heightPx / 2 - tall, 1, 2 * tall)
          }
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
      const { samples, sampleRate } = await session.soundKeeping.sound(chosen.sound, chosen.stretch)
      const buffer = new AudioBuffer({ length: Math.max(1, samples.length), sampleRate })
      buffer.copyToChannel(samples, 0)
      const offsetMs = tempoMap.msAt(chosen.take.startTicks)
      if (isCurrent) session.backing.hearAlong({ buffer, offsetMs, level: 0.8 })
    }
    prepare().catch((error) => session.notify(`The sound cannot be heard: ${error.message ?? error}.`, true))
    return () => {
      isCurrent = false
      session.backing.hearAlong(null)
    }
  }, [isAlong, chosen, tempoMap, session])

  const { take, sound, stretch } = chosen
  const name = `${take.name}, ${sound.name}`
  const problem = (error: Error) =>
    session.notify(`The sound of ${name} cannot be read: ${error.message}.`, true)
  const save = async () =>
    download(`${name}.wav`, await session.soundKeeping.wav(sound, stretch), 'audio/wav')
  const letGo = async () => {
    await session.soundKeeping.forget(sound.portId, take)
    setIsLettingGo(false)
    onChange()
    session.notify(`The sound of ${name} is gone; its notes are as they were.`, false)
  }
  /** From the bar line before the take, so that what is read comes in at a bar. */
  const read = async () => {
    const { index } = meterMap.measureAt(take.startTicks)
    const barTicks = meterMap.measure(index).startTicks
    const tempoBpm = tempoMap.tempoAt(take.startTicks)
    const leadMs = Math.max(0, tempoMap.msAt(take.startTicks) - tempoMap.msAt(barTicks))
    const fromMs = stretch.fromMs - leadMs
    const wav = await session.soundKeeping.wav(sound, { ...stretch, fromMs })
    const player = project.sources.find(({ address }) => address.portId === sound.portId)
    onRead({
      file: new File([wav], `${name}.wav`, { type: 'audio/wav' }),
      atBar: index + 1,
      preset: player?.soundInput?.preset ?? 'any',
      tempoBpm,
      told: (notes) => evenlyTold(notes, (ms) => chosen.ticksAt(fromMs + ms), barTicks, tempoBpm),
    })
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
