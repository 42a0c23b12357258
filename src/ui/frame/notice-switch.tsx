'use client';
import { Button } from 'antd';
import { useState, useSyncExternalStore } from 'react';
import type { NoticeState } from './notices';
import { allowNotices, noticeState } from './notices';

/** The browser tells nobody when it changes: it is looked at again after asking. */
const never = () => () => undefined;

/** Lets the computer itself say when a wait is over, while Eterno is open in the browser. */
export function NoticeSwitch() {
  const found = useSyncExternalStore<NoticeState | null>(never, noticeState, () => null);
  const [asked, setAsked] = useState<NoticeState | null>(null);
  switch (asked ?? found) {
    case 'off':
      return <Button onClick={() => void allowNotices().then(setAsked)}>Tell me when a wait is over</Button>;
    case 'on':
      return (
        <span className="soft small">This computer tells you when a wait is over, while Eterno is open.</span>
      );
    case 'blocked':
      return (
        <span className="soft small">
          Your browser lets Eterno show no notices; what is due is shown in the line below.
        </span>
      );
    default:
      return null;
  }
}
