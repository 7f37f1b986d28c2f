import { ProjectDoor } from '@/ui/workspace/ProjectDoor'

export default async function ProjectPage({ params }: { params: Promise<{ projectId: string }> }) {
  const { projectId } = await params
  return <ProjectDoor projectId={decodeURIComponent(projectId)} />
}
