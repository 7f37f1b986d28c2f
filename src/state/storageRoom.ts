/** How much room this browser gives the projects, and whether it keeps them. */
export interface StorageRoom {
  readonly usedBytes: number
  readonly quotaBytes: number
  /** The browser clears nothing by itself. */
  readonly isPersistent: boolean
}

/** @returns null where the browser does not say */
export async function storageRoom(): Promise<StorageRoom | null> {
  if (!navigator.storage?.estimate) return null
  const { usage = 0, quota = 0 } = await navigator.storage.estimate()
  const isPersistent = (await navigator.storage.persisted?.()) ?? false
  return { usedBytes: usage, quotaBytes: quota, isPersistent }
}

/** Asks the browser to keep what is stored until the person deletes it (Storage Standard, WHATWG). */
export async function askToPersist(): Promise<boolean> {
  return (await navigator.storage?.persist?.()) ?? false
}
