import type { Metadata, Viewport } from 'next'
import { connection } from 'next/server'
import type { ReactNode } from 'react'
import { ProgramKeeper } from '@/ui/offline/ProgramKeeper'
import './globals.css'

export const metadata: Metadata = {
  title: 'Unbroken Voice',
  description:
    'Record several players at once and get tracks and readable notation, with no note lost on the way.',
}

export const viewport: Viewport = { themeColor: '#fbf8f1', width: 'device-width', initialScale: 1 }

export default async function RootLayout({ children }: { children: ReactNode }) {
  // Each answer has a nonce of its own for its scripts, so no page is written ahead.
  await connection()
  return (
    <html lang="en">
      <body>
        {children}
        <ProgramKeeper isFinished={process.env.NODE_ENV === 'production'} />
      </body>
    </html>
  )
}
