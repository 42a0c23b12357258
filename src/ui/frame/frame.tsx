'use client';
import { App, ConfigProvider } from 'antd';
import type { ReactNode } from 'react';
import type { HandsetSummary } from '@/contracts/handset-view';
import type { Due } from '@/core/schedule/dues';
import type { Look } from '../theme';
import { themeFor } from '../theme';
import styles from './frame.module.css';
import { KeysProvider } from './keys';
import { LiveProvider } from './live';
import type { PracticeMark } from './practice-strip';
import { PracticeProvider, PracticeStrip } from './practice-strip';
import { Dues } from './dues';
import { CurrentHandsetProvider, Shelf } from './shelf';
import { ServerGone } from './server-gone';
import { StatusLine } from './status-line';
import { TopRow } from './top-row';
import { WhyProvider } from './why';

interface Props {
  readonly look: Look;
  readonly since: number;
  readonly handsets: readonly HandsetSummary[];
  readonly dues: readonly Due[];
  /** Milliseconds until the next wait ends. */
  readonly dueInMs: number | null;
  readonly vault: { readonly files: number; readonly bytes: number };
  /** There are pieces of work to try. */
  readonly demo: boolean;
  /** This is no Eterno of one's own: what is practised, and where to go back to. */
  readonly practice: PracticeMark | null;
  readonly children: ReactNode;
}

/** Two rows above, the room, one status line below. */
export function Frame({ look, since, handsets, dues, dueInMs, vault, demo, practice, children }: Props) {
  return (
    <ConfigProvider theme={themeFor(look)} button={{ autoInsertSpace: false }} wave={{ disabled: true }}>
      <App message={{ maxCount: 2 }}>
        <KeysProvider>
          <LiveProvider since={since}>
            <CurrentHandsetProvider>
              <WhyProvider>
                <a href="#room" className="skip">
                  To the room
                </a>
                <ServerGone />
                <div className={practice ? `${styles.frame} ${styles.practice}` : styles.frame}>
                  {practice ? <PracticeStrip mark={practice} /> : null}
                  <TopRow demo={demo} practice={practice !== null} />
                  <Shelf handsets={handsets} />
                  <main id="room">
                    <PracticeProvider value={practice}>{children}</PracticeProvider>
                  </main>
                </div>
                <StatusLine
                  handsets={handsets}
                  vault={vault}
                  look={look}
                  dues={<Dues dues={dues} dueInMs={dueInMs} />}
                />
              </WhyProvider>
            </CurrentHandsetProvider>
          </LiveProvider>
        </KeysProvider>
      </App>
    </ConfigProvider>
  );
}
