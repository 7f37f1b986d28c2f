import { ProjectShelf } from '@/ui/home/ProjectShelf'

export default function HomePage() {
  return <ProjectShelf />
}
