import type { Metadata } from 'next'
import { SenderProgram } from '@/ui/programs/SenderProgram'

export const metadata: Metadata = { title: 'Sender · Unbroken Voice' }

export default function SenderPage() {
  return <SenderProgram />
}
