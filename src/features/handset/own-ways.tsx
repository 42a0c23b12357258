'use client';
import { Button } from 'antd';
import { useState } from 'react';
import type { HandsetDetail } from '@/contracts/handset-view';
import type { WayView } from '@/contracts/way-view';
import type { WayGroup } from '@/core/ways/way-kinds';
import { WAY_GROUPS } from '@/core/ways/way-kinds';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import type { Said } from '@/ui/way-row';
import { WayForm, WayRow } from '@/ui/way-row';
import { forgetWayAction, sayWayAction } from './actions';
import styles from './handset.module.css';

type Say = (way: WayView, said: Said, then: () => void) => void;

/** The sheet of its model: keys, menu lines, questions, parts, each with how sure it is and who says it. */
export function OwnWays({ handset }: { handset: HandsetDetail }) {
  const { act, busy, error, dismiss } = useAct();
  const { sheet, id } = handset;
  const known = sheet.ways.filter(({ sureness }) => sureness !== null && sureness !== 'guessed').length;
  const say: Say = (way, { value, ...said }, then) =>
    act(
      () => sayWayAction({ handsetId: id, way: way.id, value: value as object | string, ...said, where: '' }),
      then,
    );
  return (
    <section aria-label="Its own ways">
      <p style={{ maxWidth: 860 }}>
        Makers differ in keys, menus and words. What you say here is kept for every{' '}
        <span className="mono">{sheet.model}</span>, and the steps of its rounds speak in these words.{' '}
        <b>
          {known} of {sheet.ways.length} are known.
        </b>
      </p>
      <p className="soft" style={{ maxWidth: 860 }}>
        {sheet.handsetClass === null
          ? 'Too little was read of it to tell its class: nothing is guessed.'
          : `Its class: ${sheet.handsetClass}. What its class often does is shown as a guess, and never said as a fact.`}
      </p>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {WAY_GROUPS.map((group) => (
        <Group
          key={group}
          group={group}
          ways={sheet.ways.filter((way) => way.group === group)}
          busy={busy}
          say={say}
          forget={(way) => act(() => forgetWayAction({ handsetId: id, way: way.id }))}
        />
      ))}
    </section>
  );
}

interface GroupProps {
  readonly group: WayGroup;
  readonly ways: readonly WayView[];
  readonly busy: boolean;
  readonly say: Say;
  readonly forget: (way: WayView) => void;
}

/** What is known of a group as a table, what is not as names to press. */
function Group({ group, ways, busy, say, forget }: GroupProps) {
  const [saying, setSaying] = useState<WayView | null>(null);
  const there = ways.filter(({ value }) => value !== null);
  const open = ways.filter(({ value }) => value === null);
  return (
    <div className={styles.wayGroup}>
      <h2>{group}</h2>
      {there.length === 0 ? null : (
        <table className="ledger">
          <colgroup>
            <col style={{ width: '26%' }} />
            <col style={{ width: '30%' }} />
            <col />
            <col style={{ width: 230 }} />
          </colgroup>
          <tbody>
            {there.map((way) => (
              <WayRow
                key={way.id}
                way={way}
                busy={busy}
                say={(said, then) => say(way, said, then)}
                forget={() => forget(way)}
              />
            ))}
          </tbody>
        </table>
      )}
      {open.length === 0 ? null : (
        <p className={styles.open}>
          <span className="soft">Not known yet:</span>
          {open.map((way) => (
            <Button
              key={way.id}
              size="small"
              type="text"
              aria-expanded={saying?.id === way.id}
              onClick={() => setSaying(saying?.id === way.id ? null : way)}
            >
              {way.label}
            </Button>
          ))}
        </p>
      )}
      {saying && open.some(({ id }) => id === saying.id) ? (
        <div className={styles.saying}>
          <b>{saying.label}</b>
          <WayForm
            key={saying.id}
            way={saying}
            busy={busy}
            say={(said) => say(saying, said, () => setSaying(null))}
            close={() => setSaying(null)}
          />
        </div>
      ) : null}
    </div>
  );
}
