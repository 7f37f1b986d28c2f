import type { Milliseconds } from '@/core/time/units'

/** What tabs say to each other before a newer version of the program is taken. */
type Word =
  /** A tab wants to take it. */
  | { readonly says: 'may I'; readonly question: string; readonly tab: string }
  /** Another one is there, and what it does. */
  | { readonly says: 'here'; readonly question: string; readonly tab: string; readonly isRecording: boolean }
  /** It has stored everything and records nothing. */
  | { readonly says: 'go on'; readonly question: string; readonly tab: string }

const channelName = 'unbroken-voice-tabs'
/** Other tabs say within this time that they are there. */
const rollCallMs: Milliseconds = 600
const lookEveryMs: Milliseconds = 250

/** How a tab stands when another one asks. */
export interface OwnTab {
  isRecording(): boolean
  storeEverything(): Promise<void>
}

/** A tab among the others. */
export interface Tabs {
  /**
   * Asks all other tabs; resolves when each that is there has stored everything and records nothing.
   *
   * @param onWaiting told how many of them record
   */
  ask(onWaiting: (recording: number) => void): Promise<void>
  leave(): void
}

/** Joins the tabs of this browser: whoever asks is answered when nothing is recorded here any more, and everything is stored. */
export function joinTabs({ isRecording, storeEverything }: OwnTab): Tabs {
  const tab = crypto.randomUUID()
  const channel = new BroadcastChannel(channelName)
  const say = (word: Word) => channel.postMessage(word)
  let isOver = false
  /** Told of the answers to what was asked here. */
  let answered = (_word: Word) => {}

  async function answer(question: string): Promise<void> {
    say({ says: 'here', question, tab, isRecording: isRecording() })
    while (isRecording() && !isOver) await new Promise((resolve) => setTimeout(resolve, lookEveryMs))
    await storeEverything()
    if (!isOver) say({ says: 'go on', question, tab })
  }

  channel.onmessage = ({ data }: MessageEvent<Word>) => {
    if (data.says === 'may I') void answer(data.question)
    else answered(data)
  }
  return {
    async ask(onWaiting) {
      const question = crypto.randomUUID()
      const waiting = new Map<string, boolean>()
      let tell = () => {}
      answered = (word) => {
        if (word.question !== question) return
        if (word.says === 'here') waiting.set(word.tab, word.isRecording)
        else waiting.delete(word.tab)
        tell()
      }
      say({ says: 'may I', question, tab })
      await new Promise((resolve) => setTimeout(resolve, rollCallMs))
      await new Promise<void>((resolve) => {
        tell = () => {
          if (waiting.size === 0) resolve()
          else onWaiting([...waiting.values()].filter(Boolean).length)
        }
        tell()
      })
    },
    leave() {
      isOver = true
      channel.close()
    },
  }
}
