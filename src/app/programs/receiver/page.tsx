import type { Metadata } from 'next'
import { ReceiverProgram } from '@/ui/programs/ReceiverProgram'

export const metadata: Metadata = { title: 'Receiver · Unbroken Voice' }

export default function ReceiverPage() {
  return <ReceiverProgram />
}
