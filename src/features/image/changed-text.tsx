'use client';
import { Button } from 'antd';
import { diffLines } from 'diff';
import { useEffect, useState } from 'react';
import { toEternoError } from '@/core/errors';
import type { EntryBytes } from '@/workers/image/image-client';
import { asText } from './hex-rows';
import styles from './image.module.css';
import { sideBySide } from './side-by-side';

interface Props {
  readonly name: string;
  readonly nameHex: string;
  /** Which of the two stands on the left, and which on the right. */
  readonly sides: readonly ['own' | 'other', 'own' | 'other'];
  readonly read: (side: 'own' | 'other', nameHex: string) => Promise<EntryBytes | null>;
  readonly onClose: () => void;
}

/** Beyond this many lines a comparison is no reading matter. */
const MOST_LINES = 4000;

/** One changed file of two ramdisks, line by line side by side. */
export function ChangedText({ name, nameHex, sides: [left, right], read, onClose }: Props) {
  const [texts, setTexts] = useState<readonly [string, string] | null>(null);
  const [why, setWhy] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    void Promise.all([read(left, nameHex), read(right, nameHex)]).then(
      ([a, b]) => {
        if (gone) return;
        const [before, after] = [a && asText(new Uint8Array(a.bytes)), b && asText(new Uint8Array(b.bytes))];
        if (before === null || after === null)
          setWhy('It is not text; that it changed shows in its hash and size.');
        else if (before.split('\n').length + after.split('\n').length > MOST_LINES)
          setWhy('It is too long to be shown side by side.');
        else setTexts([before, after]);
      },
      (thrown: unknown) => (gone ? undefined : setWhy(toEternoError(thrown).message)),
    );
    return () => {
      gone = true;
    };
  }, [nameHex, left, right, read]);
  return (
    <section className={styles.viewer} aria-label={`${name}, side by side`}>
      <div className={styles.viewerHead}>
        <b className="mono">{name}</b>
        <Button size="small" type="text" aria-label="Close the comparison" onClick={onClose}>
          ×
        </Button>
      </div>
      {why ? <p className="soft">{why}</p> : null}
      {texts ? (
        <div className={styles.sideBySide}>
          {sideBySide(diffLines(texts[0], texts[1])).map((row, i) => (
            <div key={i} className={styles.sideRow} data-same={row.same}>
              <pre>{row.a === null ? '' : `${row.same ? ' ' : '−'} ${row.a}`}</pre>
              <pre>{row.b === null ? '' : `${row.same ? ' ' : '+'} ${row.b}`}</pre>
            </div>
          ))}
        </div>
      ) : null}
    </section>
  );
}
