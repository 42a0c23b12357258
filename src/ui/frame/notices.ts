import type { Due } from '@/core/schedule/dues';
import { dueLine } from './due-line';

/*
 * Notices of the computer itself: only where the person allowed them, and each due thing once. Nothing leaves
 * this machine.
 */

const TOLD = 'eterno-told';
/** What was told long ago is forgotten: it is not due any more. */
const MOST_TOLD = 200;

export type NoticeState = 'on' | 'off' | 'blocked' | 'impossible';

export function noticeState(): NoticeState {
  if (typeof Notification === 'undefined') return 'impossible';
  return Notification.permission === 'granted'
    ? 'on'
    : Notification.permission === 'denied'
      ? 'blocked'
      : 'off';
}

export async function allowNotices(): Promise<NoticeState> {
  await Notification.requestPermission();
  return noticeState();
}

function told(): readonly string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(TOLD) ?? '[]');
    return Array.isArray(kept) ? kept.filter((key): key is string => typeof key === 'string') : [];
  } catch {
    return [];
  }
}

export function tellOnce(dues: readonly Due[]): void {
  if (noticeState() !== 'on') return;
  const before = told();
  const fresh = dues.filter(({ key }) => !before.includes(key));
  for (const due of fresh) new Notification('Eterno', { body: dueLine(due), tag: due.key });
  if (fresh.length > 0)
    localStorage.setItem(TOLD, JSON.stringify([...before, ...fresh.map(({ key }) => key)].slice(-MOST_TOLD)));
}
