/**
 * Cuts Debian's General MIDI sound bank (package fluidr3mono-gm-soundfont, MIT licence) into one small
 * bank per program plus the standard drum kit. The results are committed under public/instruments, so this
 * only needs to run again when the bank changes: `node scripts/cut-instruments.mjs [BANK.sf3]`.
 */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { BasicSoundBank, SoundBankLoader } from 'spessasynth_core'

const source = process.argv[2] ?? '/usr/share/sounds/sf3/FluidR3Mono_GM.sf3'
const target = 'public/instruments'
mkdirSync(target, { recursive: true })
await BasicSoundBank.isSF3DecoderReady

const file = readFileSync(source)
const bank = SoundBankLoader.fromArrayBuffer(
  file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength),
)

let totalBytes = 0
function cut(preset, name) {
  const small = new BasicSoundBank()
  small.soundBankInfo.name = name
  const copy = small.clonePreset(preset)
  copy.bankMSB = 0
  copy.bankLSB = 0
  small.flush()
  const bytes = new Uint8Array(small.writeSF2({ software: 'Unbroken Voice' }))
  writeFileSync(`${target}/${name}.sf3`, bytes)
  totalBytes += bytes.length
}

for (let program = 0; program < 128; program++) {
  const preset = bank.presets.find(
    (candidate) =>
      candidate.program === program &&
      candidate.bankMSB === 0 &&
      candidate.bankLSB === 0 &&
      !candidate.isDrum,
  )
  if (!preset) throw new Error(`The bank has no program ${program}`)
  cut(preset, `program-${String(program).padStart(3, '0')}`)
}
const kit = bank.presets.find((candidate) => candidate.isDrum && candidate.program === 0)
if (!kit) throw new Error('The bank has no standard drum kit')
cut(kit, 'drums')
process.stdout.write(`129 banks, ${(totalBytes / 1e6).toFixed(1)} MB\n`)
