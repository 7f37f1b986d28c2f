import { Suspense } from 'react'
import { ProjectDoor } from '@/ui/workspace/ProjectDoor'

/** One page for every project, so that without a network each of them opens from the page that is kept. */
export default function ProjectPage() {
  return (
    <Suspense>
      <ProjectDoor />
    </Suspense>
  )
}
