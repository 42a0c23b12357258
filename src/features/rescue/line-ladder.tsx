'use client';
import { AutoComplete, Button } from 'antd';
import { useMemo, useState } from 'react';
import type { Cure } from '@/core/rescue/line-ladder';
import type { RungId } from '@/core/words/rescue';
import { RUNG_WORDS } from '@/core/words/rescue';
import { useKeys } from '@/ui/frame/keys';
import styles from './rescue.module.css';
import type { Case } from './use-case';

/** Which cable and computer: what cured a line is remembered by them. */
function WhichLine({ now, cures }: { readonly now: Case; readonly cures: readonly Cure[] }) {
  const [cable, setCable] = useState(now.cable ?? '');
  const [host, setHost] = useState(now.host ?? '');
  const known = (of: 'cable' | 'host') =>
    [...new Set(cures.flatMap((cure) => cure[of] ?? []))].map((value) => ({ value }));
  const name = () => {
    const line = { cable: cable.trim() || null, host: host.trim() || null };
    if (line.cable !== now.cable || line.host !== now.host) now.nameLine(line);
  };
  return (
    <div className={styles.line}>
      <label>
        Cable{' '}
        <AutoComplete
          aria-label="Which cable"
          placeholder="the short black one"
          options={known('cable')}
          value={cable}
          onChange={setCable}
          onBlur={name}
          maxLength={60}
        />
      </label>
      <label>
        Computer{' '}
        <AutoComplete
          aria-label="Which computer"
          placeholder="the club’s laptop"
          options={known('host')}
          value={host}
          onChange={setHost}
          onBlur={name}
          maxLength={60}
        />
      </label>
      <span className="soft small">What helps is remembered for them.</span>
    </div>
  );
}

/** The short ladder of a handset that is not listed: one rung at a time, and the rest in sight. */
export function LineLadder({
  now,
  onListed,
  cures,
}: {
  readonly now: Case;
  readonly onListed: (rung: RungId) => void;
  readonly cures: readonly Cure[];
}) {
  const open = now.ladder.filter(({ rung }) => !now.rungs.includes(rung));
  const [first, ...rest] = open;
  const { stillNot } = now;
  useKeys(
    useMemo(
      () =>
        first === undefined
          ? []
          : [
              { key: '1', does: 'It is listed now', run: () => onListed(first.rung) },
              { key: '2', does: 'Still not listed', run: () => stillNot(first.rung) },
            ],
      // the case hands out new functions at each turn; the rung and what is known are what they hang on
      // eslint-disable-next-line react-hooks/exhaustive-deps
      [first?.rung, now.state],
    ),
  );
  return (
    <section aria-label="The line’s own ladder" className={styles.card}>
      {first ? (
        <>
          <h2>{RUNG_WORDS[first.rung]}</h2>
          <p>
            Then list again. About {first.minutes} min
            {first.before > 0
              ? `; it helped ${first.before === 1 ? 'once' : `${first.before} times`} on this line before`
              : ''}
            .
          </p>
          <div className={styles.answers}>
            <Button type="primary" onClick={() => onListed(first.rung)}>
              <kbd>1</kbd> It is listed now
            </Button>
            <Button onClick={() => stillNot(first.rung)}>
              <kbd>2</kbd> Still not
            </Button>
          </div>
        </>
      ) : (
        <>
          <h2>All of the ladder was tried</h2>
          <p>
            Look whether it is listed in another mode, on another computer or from a second handset. If it
            shows nothing at all, choose that too.
          </p>
        </>
      )}
      <WhichLine now={now} cures={cures} />
      {rest.length === 0 ? null : (
        <ol className={`${styles.rungs} soft small`}>
          {rest.map(({ rung, minutes, before }) => (
            <li key={rung}>
              {RUNG_WORDS[rung]}: {minutes} min{before > 0 ? `, helped before` : ''}
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}
