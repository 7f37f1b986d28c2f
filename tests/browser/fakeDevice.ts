import chromium from '../chromium.json'

/** How a browser is started that has one microphone, which plays a file over and over and may be listened to. */
export function fakeDevice(file: string) {
  return {
    executablePath: process.env.CHROMIUM ?? chromium.path,
    args: [
      ...chromium.arguments,
      '--use-fake-device-for-media-stream',
      '--use-fake-ui-for-media-stream',
      `--use-file-for-fake-audio-capture=${file}`,
    ],
  }
}
