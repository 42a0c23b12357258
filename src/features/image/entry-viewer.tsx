'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Button, Segmented } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { toEternoError } from '@/core/errors';
import { formatBytes } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import type { EntryBytes } from '@/workers/image/image-client';
import type { EntryRow } from '@/core/packages/entry-rows';
import { kindOf, permissionsOf } from '@/core/packages/entry-rows';
import { asText, hexRow, hexRowCount } from './hex-rows';
import styles from './image.module.css';

interface Props {
  readonly row: EntryRow;
  readonly read: (side: 'own', nameHex: string) => Promise<EntryBytes | null>;
  readonly onClose: () => void;
}

/** One entry of the ramdisk: what it is, and what is in it, as text or as bytes. */
export function EntryViewer({ row, read, onClose }: Props) {
  const { entry } = row;
  const [loaded, setLoaded] = useState<EntryBytes | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const [look, setLook] = useState<'text' | 'bytes' | null>(null);
  useEffect(() => {
    let gone = false;
    void read('own', entry.nameHex).then(
      (found) => (gone ? undefined : setLoaded(found)),
      (thrown: unknown) => (gone ? undefined : setFailed(toEternoError(thrown).message)),
    );
    return () => {
      gone = true;
    };
  }, [entry.nameHex, read]);
  const bytes = useMemo(() => (loaded ? new Uint8Array(loaded.bytes) : null), [loaded]);
  const text = useMemo(() => (bytes ? asText(bytes) : null), [bytes]);
  const shown = look ?? (text === null ? 'bytes' : 'text');
  const kind = kindOf(entry);
  return (
    <section className={styles.viewer} aria-label={entry.name}>
      <div className={styles.viewerHead}>
        <b className="mono" style={{ overflowWrap: 'anywhere' }}>
          {entry.name}
        </b>
        <Button size="small" type="text" aria-label="Close the viewer" onClick={onClose}>
          ×
        </Button>
      </div>
      <div className="soft small">
        {kind}, {permissionsOf(entry)}, owner {entry.uid}:{entry.gid}, inode {entry.ino},{' '}
        {formatBytes(entry.size)}, SHA-256 <HashText hash={entry.sha256} />
        {row.overruled ? (
          <b className="wait"> · a later entry of this name counts, and is shown here</b>
        ) : null}
      </div>
      {failed ? <p className="bad">{failed}</p> : null}
      {bytes && bytes.length > 0 ? (
        <>
          <Segmented
            size="small"
            value={shown}
            onChange={(value) => setLook(value === 'text' ? 'text' : 'bytes')}
            options={[
              { value: 'text', label: 'Text', disabled: text === null },
              { value: 'bytes', label: 'Bytes' },
            ]}
            aria-label="How to show it"
          />
          {shown === 'text' && text !== null ? (
            <pre className={styles.text}>{text}</pre>
          ) : (
            <HexView bytes={bytes} />
          )}
          {loaded && loaded.size > bytes.length ? (
            <p className="soft small">
              The first {formatBytes(bytes.length)} of {formatBytes(loaded.size)}.
            </p>
          ) : null}
        </>
      ) : loaded ? (
        <p className="soft">It holds nothing.</p>
      ) : null}
    </section>
  );
}

const ROW_PX = 19;

function HexView({ bytes }: { bytes: Uint8Array }) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is memoised
  const list = useVirtualizer({
    count: hexRowCount(bytes),
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  return (
    <div ref={scroller} className={styles.hex} tabIndex={0} role="region" aria-label="Bytes">
      <div style={{ height: list.getTotalSize(), position: 'relative' }}>
        {list.getVirtualItems().map((item) => {
          const { offset, hex, text } = hexRow(bytes, item.index);
          return (
            <div
              key={item.index}
              className={styles.hexRow}
              style={{ transform: `translateY(${item.start}px)` }}
            >
              <span className="soft">{offset}</span> {hex} <span>{text}</span>
            </div>
          );
        })}
      </div>
    </div>
  );
}
