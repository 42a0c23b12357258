'use client';
import { Button, Checkbox } from 'antd';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Link } from '@/ui/link';
import { useMemo, useRef, useState } from 'react';
import type { PackageImage } from '@/core/packages/package-report';
import { formatBytes, formatSeconds } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import type { ContentRow } from './content-rows';
import { contentRows } from './content-rows';
import styles from './firmware.module.css';
import { obstacle } from './takeable';
import type { OpenPackage, TakenImage } from './use-package';

interface Props {
  readonly pack: OpenPackage;
  readonly taken: readonly TakenImage[];
  readonly busy: boolean;
  readonly foreign: boolean;
  readonly onTake: (partitions: readonly string[]) => void;
}

const ROW_PX = 30;
const SHOWN_ROWS = 14;

/** What is in the package, as a tree with sizes and hashes; several images can be taken out at once. */
export function PackageContents({ pack, taken, busy, foreign, onTake }: Props) {
  const [closed, setClosed] = useState<ReadonlySet<string>>(new Set());
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const rows = useMemo(() => contentRows(pack.contents, closed), [pack.contents, closed]);
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is memoised
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  if (pack.contents.length === 0) {
    const [image] = pack.report.images;
    return image ? (
      <p>
        The file is the image of <b>{image.partition}</b>,{' '}
        {image.size === null ? 'its size is known once unpacked' : formatBytes(image.size)}.
      </p>
    ) : null;
  }
  const toggle = <T,>(set: ReadonlySet<T>, item: T): ReadonlySet<T> => {
    const next = new Set(set);
    if (!next.delete(item)) next.add(item);
    return next;
  };
  const chosen = pack.report.images.filter(
    (image) => ticked.has(image.partition) && !taken.some((one) => one.partition === image.partition),
  );
  return (
    <section aria-label="What is in it">
      <div className={styles.jobHead} style={{ marginTop: 14 }}>
        <h3>
          In it: {pack.report.images.length === 1 ? 'one image' : `${pack.report.images.length} images`}
        </h3>
        {chosen.length > 0 ? (
          <Button size="small" disabled={busy} onClick={() => onTake(chosen.map((image) => image.partition))}>
            Take out {chosen.length === 1 ? chosen[0]!.partition : `${chosen.length} images`}
          </Button>
        ) : null}
      </div>
      <div
        ref={scroller}
        className={styles.tree}
        style={{ height: Math.min(rows.length, SHOWN_ROWS) * ROW_PX + 2 }}
        tabIndex={0}
        role="region"
        aria-label={`${pack.contents.length} things in the package`}
      >
        <div style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            return (
              <div
                key={row.key}
                className={styles.treeRow}
                style={{ transform: `translateY(${item.start}px)` }}
              >
                <TreeRow
                  row={row}
                  image={
                    pack.report.images.find((image) => image.partition === row.content?.partition) ?? null
                  }
                  done={taken.find((one) => one.partition === row.content?.partition)}
                  ticked={ticked.has(row.content?.partition ?? '')}
                  foreign={foreign}
                  onFold={() => setClosed((now) => toggle(now, row.key))}
                  onTick={(partition) => setTicked((now) => toggle(now, partition))}
                />
              </div>
            );
          })}
        </div>
      </div>
    </section>
  );
}

interface RowProps {
  readonly row: ContentRow;
  readonly image: PackageImage | null;
  readonly done: TakenImage | undefined;
  readonly ticked: boolean;
  readonly foreign: boolean;
  readonly onFold: () => void;
  readonly onTick: (partition: string) => void;
}

function TreeRow(props: RowProps) {
  const { row } = props;
  return (
    <>
      <NameCell {...props} />
      <span className="mono num">{row.size === null ? '' : formatBytes(row.size)}</span>
      <span>
        {row.content?.sha256 ? (
          <HashText hash={row.content.sha256} />
        ) : typeof row.content?.crc32 === 'number' ? (
          <span className="mono soft small">CRC {row.content.crc32.toString(16).padStart(8, '0')}</span>
        ) : null}
      </span>
      <span className="small">
        <StateWords {...props} />
      </span>
    </>
  );
}

function NameCell({ row, image, done, ticked, foreign, onFold, onTick }: RowProps) {
  const free = image && !done && obstacle(image, foreign) === null;
  return (
    <span style={{ paddingLeft: row.depth * 18 }} className={styles.treeName}>
      {row.folder ? (
        <button type="button" className={styles.fold} aria-expanded={row.open} onClick={onFold}>
          {row.open ? '▾' : '▸'} {row.label} <span className="soft small">{row.count} in it</span>
        </button>
      ) : free ? (
        <Checkbox checked={ticked} onChange={() => onTick(image.partition)}>
          <b>{row.label}</b>
        </Checkbox>
      ) : (
        <span className={image ? '' : 'mono small'} style={{ paddingLeft: 16 }}>
          {image ? <b>{row.label}</b> : row.label}
        </span>
      )}
    </span>
  );
}

/** Where an image is, or why it is not taken out. */
function StateWords({ image, done, foreign }: RowProps) {
  if (done)
    return (
      <>
        <Link href={`/images/${done.sha256}`}>in the vault</Link>,{' '}
        {done.verified ? 'hash verified' : 'no hash to verify by'}, {formatSeconds(done.seconds)}
      </>
    );
  if (!image) return null;
  const slots = image.slots === null ? '' : image.slots === 'both' ? 'both slots' : 'one slot';
  return <span className="soft">{obstacle(image, foreign) ?? slots}</span>;
}
