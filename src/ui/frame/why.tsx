'use client';
import { Drawer } from 'antd';
import { createContext, useContext, useEffect, useMemo, useState } from 'react';
import type { ReactNode } from 'react';
import { useKeys } from './keys';

const WhyContext = createContext<(content: ReactNode) => void>(() => undefined);

/** The drawer on the right that holds the evidence for what a room is about; W opens it. */
export function WhyProvider({ children }: { children: ReactNode }) {
  const [room, setRoom] = useState<ReactNode>(null);
  const [open, setOpen] = useState(false);
  const hasRoom = room !== null;
  useKeys(
    useMemo(
      () => (hasRoom ? [{ key: 'w', does: 'why', run: () => setOpen((shown) => !shown) }] : []),
      [hasRoom],
    ),
  );
  return (
    <WhyContext value={setRoom}>
      {children}
      <Drawer open={open && hasRoom} onClose={() => setOpen(false)} title="Why" size={420} mask={false}>
        {room}
      </Drawer>
    </WhyContext>
  );
}

/** What W tells in this room. */
export function useRoomWhy(content: ReactNode): void {
  const setRoom = useContext(WhyContext);
  useEffect(() => {
    setRoom(content);
    return () => setRoom(null);
  }, [content, setRoom]);
}
