'use client';
import { Button } from 'antd';
import type { TryItView } from '@/contracts/try-it-view';
import { Link } from '@/ui/link';
import { NextStrip } from '@/ui/next-strip';
import { useCopy } from '@/ui/use-copy';
import styles from './try-it.module.css';

/** Pieces of work that people do, each to be tried on a stand-in from its beginning. */
export function TryItRoom({ view }: { view: TryItView }) {
  const now = view.works.find(({ begin }) => begin !== null) ?? null;
  return (
    <div className={styles.room}>
      <h1>Try it</h1>
      <p className="soft">
        Whole pieces of work, on simulated handsets that can be broken without harm. Each has a world of its
        own: the command in its line makes it and starts it.
      </p>
      {now ? (
        <NextStrip
          action={
            <Link href={now.begin!}>
              <Button type="primary">Begin</Button>
            </Link>
          }
        >
          <b>{view.handset}</b> stands at the beginning of number {now.n}: {now.sentence}
        </NextStrip>
      ) : null}
      <table className="ledger">
        <thead>
          <tr>
            <th style={{ width: 44 }}>No.</th>
            <th>What it is</th>
            <th style={{ width: 300 }}>How to get there</th>
          </tr>
        </thead>
        <tbody>
          {view.works.map(({ n, sentence, begin, command }) => (
            <tr key={n} aria-current={begin === null ? undefined : 'true'}>
              <td className="mono">{n}</td>
              <td>{begin === null ? sentence : <b>{sentence}</b>}</td>
              <td>{begin === null ? <Command text={command} /> : 'This world: it begins above.'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A press copies it. */
function Command({ text }: { text: string }) {
  const copy = useCopy();
  return (
    <Button type="text" size="small" className="mono" aria-label={`Copy ${text}`} onClick={() => copy(text)}>
      {text}
    </Button>
  );
}
