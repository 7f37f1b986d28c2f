import type { Page } from '@playwright/test'

type FakeMidiWindow = typeof globalThis & {
  midiPorts: {
    plug(id: string, name: string): void
    unplug(id: string): void
    send(id: string, bytes: readonly number[]): void
    /** From now on the output refuses what is sent to it. */
    refuse(id: string): void
    sent: { id: string; bytes: number[]; timestamp: number }[]
  }
}

/**
 * Gives the page MIDI ports of the shape of the W3C Web MIDI API that a test plugs, unplugs and plays. Must be called
 * before the page is opened.
 */
export async function withMidiPorts(
  page: Page,
  ports: readonly { readonly id: string; readonly name: string }[],
): Promise<void> {
  await page.addInitScript((first) => {
    const inputs = new Map<string, EventTarget & { state: string }>()
    const outputs = new Map<string, unknown>()
    const sent: { id: string; bytes: number[]; timestamp: number }[] = []
    const access = Object.assign(new EventTarget(), { inputs, outputs })
    Object.defineProperty(navigator, 'requestMIDIAccess', { value: async () => access })
    const plug = (id: string, name: string) => {
      inputs.set(id, Object.assign(new EventTarget(), { id, name, state: 'connected' }))
      outputs.set(id, {
        id,
        name,
        state: 'connected',
        send: (bytes: number[], timestamp: number) => sent.push({ id, bytes: [...bytes], timestamp }),
      })
      access.dispatchEvent(new Event('statechange'))
    }
    for (const port of first) plug(port.id, port.name)
    Object.assign(globalThis, {
      midiPorts: {
        plug,
        unplug(id: string) {
          inputs.delete(id)
          outputs.delete(id)
          access.dispatchEvent(new Event('statechange'))
        },
        send(id: string, bytes: number[]) {
          const event = new Event('midimessage')
          inputs.get(id)?.dispatchEvent(Object.assign(event, { data: Uint8Array.from(bytes) }))
        },
        refuse(id: string) {
          Object.assign(outputs.get(id) as object, {
            send: () => {
              throw new DOMException('the device is gone', 'InvalidStateError')
            },
          })
        },
        sent,
      },
    })
  }, ports)
}

export async function play(page: Page, id: string, ...messages: readonly number[][]): Promise<void> {
  await page.evaluate(
    ([port, all]) => {
      for (const bytes of all) (globalThis as FakeMidiWindow).midiPorts.send(port, bytes)
    },
    [id, messages] as const,
  )
}

export async function plug(page: Page, id: string, name: string): Promise<void> {
  await page.evaluate(([port, text]) => (globalThis as FakeMidiWindow).midiPorts.plug(port, text), [
    id,
    name,
  ] as const)
}

export async function unplug(page: Page, id: string): Promise<void> {
  await page.evaluate((port) => (globalThis as FakeMidiWindow).midiPorts.unplug(port), id)
}

/** What was sent to a port, in order. */
export function sentTo(page: Page, id: string): Promise<{ bytes: number[]; timestamp: number }[]> {
  return page.evaluate(
    (port) => (globalThis as FakeMidiWindow).midiPorts.sent.filter((message) => message.id === port),
    id,
  )
}

/** Has the output of a port refuse everything. */
export async function refuseOn(page: Page, id: string): Promise<void> {
  await page.evaluate((port) => (globalThis as FakeMidiWindow).midiPorts.refuse(port), id)
}

/**
 * Plays notes and then does something else, all in one turn of the page: as when it was busy and has to catch up. The notes
 * are handed on only after it.
 */
export async function playInOneTurn(
  page: Page,
  id: string,
  messages: readonly number[][],
  then: { readonly pressTitled: string } | { readonly unplug: string },
): Promise<void> {
  await page.evaluate(
    ([port, all, last]) => {
      const { midiPorts } = globalThis as FakeMidiWindow
      for (const bytes of all) midiPorts.send(port, bytes)
      if ('unplug' in last) midiPorts.unplug(last.unplug)
      else document.querySelector<HTMLElement>(`button[title="${last.pressTitled}"]`)!.click()
    },
    [id, messages, then] as const,
  )
}
