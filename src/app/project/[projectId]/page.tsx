import { redirect } from 'next/navigation'

/** The address of a project as it was once written. */
export default async function OldProjectAddress({
  params,
  searchParams,
}: {
  params: Promise<{ projectId: string }>
  searchParams: Promise<Record<string, string | string[] | undefined>>
}) {
  const { step } = await searchParams
  const query = new URLSearchParams({ id: decodeURIComponent((await params).projectId) })
  if (typeof step === 'string') query.set('step', step)
  redirect(`/project?${query}`)
}
