'use client';
import { Drawer } from 'antd';
import { createContext, useContext, useEffect, useMemo, useState } from 'react';
import type { ReactNode } from 'react';
import { useKeys } from './keys';

interface Why {
  show(content: ReactNode): void;
  setRoom(content: ReactNode): void;
}
const WhyContext = createContext<Why>({ show: () => undefined, setRoom: () => undefined });

/** The drawer on the right that holds the evidence for what is focused; W opens the room's own. */
export function WhyProvider({ children }: { children: ReactNode }) {
  const [room, setRoom] = useState<ReactNode>(null);
  const [content, setContent] = useState<ReactNode>(null);
  const why = useMemo<Why>(() => ({ show: setContent, setRoom }), []);
  useKeys(useMemo(() => (room ? [{ key: 'w', does: 'why', run: () => setContent((shown) => (shown ? null : room)) }] : []), [room]));
  return (
    <WhyContext value={why}>
      {children}
      <Drawer open={content !== null} onClose={() => setContent(null)} title="Why" size={420} mask={false}>
        {content}
      </Drawer>
    </WhyContext>
  );
}

export const useShowWhy = () => useContext(WhyContext).show;

/** What W tells in this room. */
export function useRoomWhy(content: ReactNode): void {
  const { setRoom } = useContext(WhyContext);
  useEffect(() => {
    setRoom(content);
    return () => setRoom(null);
  }, [content, setRoom]);
}
