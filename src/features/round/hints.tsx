'use client';
import { Button } from 'antd';
import type { ReactNode } from 'react';
import { createContext, useContext, useState } from 'react';
import { askServer } from '@/ui/ask-server';
import { useIsPractice } from '@/ui/frame/practice-strip';
import { askHintAction } from './actions';
import type { RoundActions } from './use-round-actions';

const HintContext = createContext<{ readonly shown: boolean; readonly show: () => void }>({
  shown: true,
  show: () => undefined,
});

/** In practice a step says how it is done only to who asks; that it was asked for is kept. */
export function HintsOfStep({
  actions,
  children,
}: {
  readonly actions: RoundActions;
  readonly children: ReactNode;
}) {
  const practice = useIsPractice();
  const [asked, setAsked] = useState(false);
  const show = () => {
    setAsked(true);
    // nobody waits for it: the step's own buttons stay as they are
    void askServer(() => askHintAction(actions.at));
  };
  return <HintContext.Provider value={{ shown: !practice || asked, show }}>{children}</HintContext.Provider>;
}

/** What is a hint in practice, and plainly there elsewhere. */
export function Hint({ asks, children }: { readonly asks?: true; readonly children: ReactNode }) {
  const { shown, show } = useContext(HintContext);
  if (shown) return children;
  return asks ? (
    <p className="soft">
      You know how. If not: <Button onClick={show}>Show me how</Button>
    </p>
  ) : null;
}
