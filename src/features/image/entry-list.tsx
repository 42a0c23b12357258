'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Input } from 'antd';
import { useDeferredValue, useMemo, useRef, useState } from 'react';
import { formatBytes } from '@/ui/format';
import type { EntryRow } from '@/core/packages/entry-rows';
import { kindOf, permissionsOf, searchRows } from '@/core/packages/entry-rows';
import styles from './image.module.css';

const ROW_PX = 26;

interface Props {
  /** As many as have come over yet. */
  readonly rows: readonly EntryRow[];
  readonly total: number;
  readonly chosen: string | null;
  readonly onChoose: (row: EntryRow) => void;
}

/** A ramdisk's entries as a tree, in the order they are unpacked; searched by name. */
export function EntryList({ rows: all, total, chosen, onChoose }: Props) {
  const [search, setSearch] = useState('');
  const wanted = useDeferredValue(search);
  const rows = useMemo(() => searchRows(all, wanted), [all, wanted]);
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is memoised
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 20,
  });
  const archives = all.at(-1)?.archive ?? 1;
  return (
    <>
      <div className={styles.searchRow}>
        <Input
          aria-label="Search entries"
          placeholder="Search entries by name"
          size="small"
          allowClear
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        <span className="soft small">
          {rows.length === total
            ? `${total.toLocaleString('en')} entries`
            : `${rows.length.toLocaleString('en')} of ${total.toLocaleString('en')}`}
          {archives > 1 ? ` in ${archives} archives` : ''}
        </span>
      </div>
      <div
        ref={scroller}
        className={styles.entries}
        tabIndex={0}
        role="region"
        aria-label={`${rows.length} ramdisk entries`}
      >
        <div style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            const { entry } = row;
            return (
              <button
                key={row.key}
                type="button"
                className={styles.entry}
                data-chosen={chosen === row.key}
                data-overruled={row.overruled}
                style={{ transform: `translateY(${item.start}px)` }}
                title={`${entry.name}, archive ${row.archive}${row.overruled ? ', overruled by a later one' : ''}`}
                onClick={() => onChoose(row)}
              >
                <span className="mono" style={{ paddingLeft: wanted === '' ? row.depth * 14 : 0 }}>
                  {wanted === '' ? row.label : entry.name}
                </span>
                <span className="mono soft">{permissionsOf(entry)}</span>
                <span className="mono soft">
                  {entry.uid}:{entry.gid}
                </span>
                <span className="mono" style={{ textAlign: 'right' }}>
                  {kindOf(entry) === 'file' ? formatBytes(entry.size) : kindOf(entry)}
                </span>
              </button>
            );
          })}
        </div>
      </div>
    </>
  );
}
