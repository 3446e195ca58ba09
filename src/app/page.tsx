import { Workplace } from '@/features/workplace';

export default function Page() {
  return <Workplace />;
}
