import { launchOptions } from '../chromium.mjs'

/** How a browser is started that has one microphone, which plays a file over and over and may be listened to. */
export function fakeDevice(file: string) {
  return {
    ...launchOptions,
    args: [
      ...launchOptions.args,
      '--use-fake-device-for-media-stream',
      '--use-fake-ui-for-media-stream',
      `--use-file-for-fake-audio-capture=${file}`,
    ],
  }
}
