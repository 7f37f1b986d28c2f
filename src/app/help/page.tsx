import type { Metadata } from 'next'
import Link from 'next/link'
import { HelpSheet } from '@/ui/help/HelpSheet'

export const metadata: Metadata = { title: 'Help · Unbroken Voice' }

export default function HelpPage() {
  return (
    <main className="mx-auto max-w-[860px] px-4 py-8 md:px-8">
      <h1 className="mb-4 font-serif text-3xl font-semibold">Help</h1>
      <HelpSheet />
      <p className="mt-6">
        <Link className="font-semibold text-indigo underline" href="/">
          To the shelf
        </Link>
      </p>
    </main>
  )
}
