'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef } from 'react';
import type { RamdiskReport } from '@/core/packages/list-ramdisk';
import { formatBytes } from '@/ui/format';
import styles from './image.module.css';

const ROW_PX = 26;

/** A ramdisk's entries as they lie in it, archive after archive. */
export function EntryList({ ramdisk }: { ramdisk: RamdiskReport }) {
  const entries = useMemo(() => ramdisk.archives.flatMap((archive, i) => archive.entries.map((entry) => ({ ...entry, archive: i + 1 }))), [ramdisk]);
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the library's own hook; nothing of it is memoised
  const rows = useVirtualizer({ count: entries.length, getScrollElement: () => scroller.current, estimateSize: () => ROW_PX, overscan: 20 });
  return (
    <div ref={scroller} className={styles.entries} tabIndex={0} role="region" aria-label={`${entries.length} ramdisk entries`}>
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map((item) => {
          const entry = entries[item.index]!;
          return (
            <div
              key={item.key}
              className={styles.entry}
              style={{ position: 'absolute', top: 0, left: 0, right: 0, transform: `translateY(${item.start}px)` }}
            >
              <span className="mono" title={`${entry.name}, archive ${entry.archive}, ${entry.sha256}`}>
                {entry.name}
              </span>
              <span className="mono soft">{entry.mode}</span>
              <span className="mono soft">
                {entry.uid}:{entry.gid}
              </span>
              <span className="mono" style={{ textAlign: 'right' }}>
                {entry.mode.startsWith('4') ? 'folder' : formatBytes(entry.size)}
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}
