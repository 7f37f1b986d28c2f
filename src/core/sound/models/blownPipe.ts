import { fadedOut, frequencyHzOf, noiseFrom, type PlayedTone } from './playedTone'

const releaseSeconds = 0.06
const attackSeconds = 0.03

/**
 * A cylindrical pipe blown through a reed: the pressure that comes back from the open end, turned over and duller, decides how much air
 * the reed lets in.
 *
 * Source: M. E. McIntyre, R. T. Schumacher and J. Woodhouse, "On the oscillations of musical instruments", JASA 74(5), 1983, in the form
 * with a table for the reed of J. O. Smith, "Efficient Simulation of the Reed-Bore and Bow-String Mechanisms", ICMC 1986.
 *
 * @returns one channel at `sampleRate`, at most about 1 either way
 */
export function blownPipe(tone: PlayedTone, sampleRate: number): Float32Array {
  const frequencyHz = frequencyHzOf(tone)
  const force = tone.velocity / 127
  const noise = noiseFrom(tone.seed)
  const out = new Float32Array(Math.ceil((tone.seconds + releaseSeconds) * sampleRate))
  // There and back, open at one end: half a period; the dull reflection is half a sample late.
  const bore = sampleRate / frequencyHz / 2 - 0.5
  const line = new Float32Array(Math.ceil(bore) + 2)
  const strength = 0.62 + 0.16 * force
  const attack = attackSeconds * sampleRate * (1.6 - force)
  const heldSamples = tone.seconds * sampleRate
  let write = 0
  let before = 0
  for (let sample = 0; sample < out.length; sample++) {
    const begun = Math.min(1, sample / attack)
    const ended =
      sample < heldSamples ? 1 : Math.max(0, 1 - (sample - heldSamples) / (releaseSeconds * sampleRate))
    const sways = 1 + 0.02 * begun * Math.sin((2 * Math.PI * 4.7 * sample) / sampleRate)
    const breath = strength * begun * ended * sways * (1 + 0.03 * noise())
    const back = read(line, write, bore)
    const reflected = -0.95 * 0.5 * (back + before)
    before = back
    const difference = reflected - breath
    const reed = Math.max(-1, Math.min(1, 0.7 - 0.3 * difference))
    const sent = breath + difference * reed
    line[write] = sent
    write = (write + 1) % line.length
    out[sample] = back * 0.7 * (0.35 + 0.65 * force)
  }
  return fadedOut(out, sampleRate)
}

/** What was written so many samples ago, between samples by a straight line. */
function read(line: Float32Array, write: number, ago: number): number {
  const place = write - ago + line.length * 2
  const low = Math.floor(place)
  const part = place - low
  return (1 - part) * line[low % line.length]! + part * line[(low + 1) % line.length]!
}
