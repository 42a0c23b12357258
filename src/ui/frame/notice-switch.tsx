'use client';
import { Button } from 'antd';
import { useEffect, useState } from 'react';
import type { NoticeState } from './notices';
import { allowNotices, noticeState } from './notices';

/** Lets the computer itself say when a wait is over, while Eterno is open in the browser. */
export function NoticeSwitch() {
  const [state, setState] = useState<NoticeState | null>(null);
  useEffect(() => setState(noticeState()), []);
  switch (state) {
    case 'off':
      return <Button onClick={() => void allowNotices().then(setState)}>Tell me when a wait is over</Button>;
    case 'on':
      return <span className="soft small">This computer tells you when a wait is over, while Eterno is open.</span>;
    case 'blocked':
      return <span className="soft small">Your browser lets Eterno show no notices; what is due stands in the line below.</span>;
    default:
      return null;
  }
}
