import type { RootState } from '@/core/schedule/continuity';

export const ROOT_WORDS: Readonly<Record<RootState, string>> = {
  proven: 'root proved',
  unproven: 'root not proved',
  stock: 'stock',
  lost: 'root lost',
  broken: 'does not start',
  unknown: 'not known',
};

function shape(state: RootState) {
  switch (state) {
    case 'proven':
      return <path d="M12 2.5 21.5 12 12 21.5 2.5 12Z" fill="var(--root)" />;
    case 'unproven':
      return (
        <>
          <path d="M12 2.5 21.5 12 12 21.5 2.5 12Z" fill="none" stroke="var(--root)" strokeWidth="2" />
          <path d="M12 2.5 2.5 12 12 21.5Z" fill="var(--root)" />
        </>
      );
    case 'stock':
      return <circle cx="12" cy="12" r="8.6" fill="none" stroke="var(--stock)" strokeWidth="2.2" />;
    case 'lost':
      return <path d="M12 3.4a8.6 8.6 0 1 1-7.4 4.2" fill="none" stroke="var(--bad)" strokeWidth="2.4" />;
    case 'broken':
      return <path d="M4 4h16v16H4ZM4 4l16 16M20 4 4 20" fill="none" stroke="var(--bad)" strokeWidth="2" />;
    case 'unknown':
      return (
        <circle
          cx="12"
          cy="12"
          r="8.6"
          fill="none"
          stroke="var(--stock)"
          strokeWidth="2.2"
          strokeDasharray="1.5 3.6"
          strokeLinecap="round"
        />
      );
  }
}

/** Shape first, colour second; the word is its name. */
export function StateMark({ state, size = 18 }: { state: RootState; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" role="img" aria-label={ROOT_WORDS[state]}>
      <title>{ROOT_WORDS[state]}</title>
      {shape(state)}
    </svg>
  );
}
