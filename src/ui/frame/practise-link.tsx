'use client';
import { Link } from '../link';
import { useIsPractice } from './practice-strip';

/** Leads to practice with a copy of a handset, or with an invented one; practice itself has none of its own. */
export function PractiseLink({
  handsetId,
  children,
}: {
  readonly handsetId: string | null;
  readonly children: string;
}) {
  if (useIsPractice()) return null;
  return <Link href={handsetId === null ? '/practice' : `/practice?copy=${handsetId}`}>{children}</Link>;
}
