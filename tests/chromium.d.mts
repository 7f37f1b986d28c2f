export const headlessShell: string
export function browserToDrive(): string | undefined
export const launchOptions: { readonly executablePath: string | undefined; readonly args: string[] }
