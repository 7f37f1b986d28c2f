import type { ReactNode } from 'react'
import { Choice } from '../controls/Choice'

/** The frame of a stand-in program: it says what it stands for. */
export function ProgramPage({
  title,
  text,
  children,
  isWide = false,
}: {
  title: string
  text: string
  children: ReactNode
  /** For a page of music. */
  isWide?: boolean
}) {
  return (
    <main className={`mx-auto px-8 py-8 ${isWide ? 'max-w-[1120px]' : 'max-w-[860px]'}`}>
      <p className="text-[13px] text-soft">Stand-in program</p>
      <h1 className="font-serif text-2xl font-semibold">{title}</h1>
      <p className="mt-1 mb-5 max-w-[620px] text-soft">{text}</p>
      {children}
    </main>
  )
}

/** Which cable the program is on. */
export function CableChoice({
  cables,
  cable,
  onChange,
  isDisabled,
}: {
  cables: readonly string[]
  cable: string
  onChange: (cable: string) => void
  isDisabled?: boolean
}) {
  const names = cables.includes(cable) ? cables : [...cables, cable]
  return (
    <Choice
      label="cable"
      value={cable}
      isDisabled={isDisabled}
      options={names.map((name) => ({ value: name, text: name }))}
      onChange={onChange}
    />
  )
}
