'use client';
import { createContext, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import type { ReactNode } from 'react';

export interface KeyBinding {
  /** As in `KeyboardEvent.key`, lower case for letters. */
  readonly key: string;
  readonly does: string;
  readonly run: () => void;
}

interface Registry {
  readonly bindings: readonly KeyBinding[];
  add(bindings: readonly KeyBinding[]): () => void;
}

const KeysContext = createContext<Registry>({ bindings: [], add: () => () => undefined });
export const useKeyBindings = () => useContext(KeysContext).bindings;

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
const pressable = (target: EventTarget | null) =>
  target instanceof HTMLElement && target.closest('button, a, [role="button"], summary, label') !== null;

/** One place that listens to the keyboard; rooms add what their keys do, the status line shows it. */
export function KeysProvider({ children }: { children: ReactNode }) {
  const [groups, setGroups] = useState<readonly (readonly KeyBinding[])[]>([]);
  const add = useCallback((bindings: readonly KeyBinding[]) => {
    setGroups((known) => [...known, bindings]);
    return () => setGroups((known) => known.filter((group) => group !== bindings));
  }, []);
  const bindings = useMemo(() => groups.flat(), [groups]);
  const current = useRef(bindings);
  useEffect(() => {
    current.current = bindings;
  }, [bindings]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
      if (event.key === 'Enter' && pressable(event.target)) return;
      const pressed = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      const binding = [...current.current].reverse().find((one) => one.key === pressed);
      if (!binding) return;
      event.preventDefault();
      binding.run();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const registry = useMemo(() => ({ bindings, add }), [bindings, add]);
  return <KeysContext value={registry}>{children}</KeysContext>;
}

/** What keys do while the component is shown. Give a stable list (useMemo). */
export function useKeys(bindings: readonly KeyBinding[]): void {
  const { add } = useContext(KeysContext);
  useEffect(() => add(bindings), [add, bindings]);
}
