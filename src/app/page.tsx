import { connection } from 'next/server';
import { Workplace } from '@/features/workplace';

export default async function Page() {
  // the nonce of its scripts is made for each answer
  await connection();
  return <Workplace />;
}
