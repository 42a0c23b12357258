'use client';
import { Button } from 'antd';
import type { KeyboardEvent } from 'react';
import { useEffect, useRef, useState } from 'react';
import type { ByteRegion } from '@/core/packages/byte-regions';
import { formatBytes } from '@/ui/format';
import type { View } from './byte-map-layout';
import { layOutBars, panned, ticks, viewAbout, zoomed } from './byte-map-layout';
import styles from './image.module.css';

const FILL: Readonly<Record<string, string>> = {
  header: 'var(--ink)',
  kernel: 'var(--stock)',
  ramdisk: 'var(--root)',
  vendor_ramdisk: 'var(--root)',
  signature: 'var(--wait)',
  'verified-boot data': 'var(--wait)',
  footer: 'var(--bad)',
  'left by the maker': 'var(--wait)',
  padding: 'transparent',
};
/** A label goes where its bar leaves this much room, in per cent of the width. */
const LABEL_ROOM = 7;

/** The file to scale, from its first byte to its last; wheel, buttons or keys go in and along. */
export function ByteMap({ regions, size }: { regions: readonly ByteRegion[]; size: number }) {
  const [view, setView] = useState<View>({ start: 0, end: size });
  const [chosen, setChosen] = useState<ByteRegion | null>(null);
  const map = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const element = map.current;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = element!.getBoundingClientRect();
      const anchor = (event.clientX - box.left) / box.width;
      setView((now) =>
        event.shiftKey
          ? panned(now, event.deltaY > 0 ? 0.1 : -0.1, size)
          : zoomed(now, event.deltaY > 0 ? 1.25 : 0.8, anchor, size),
      );
    };
    element?.addEventListener('wheel', wheel, { passive: false });
    return () => element?.removeEventListener('wheel', wheel);
  }, [size]);
  const onKeyDown = (event: KeyboardEvent) => {
    const next: Readonly<Record<string, View>> = {
      '+': zoomed(view, 0.5, 0.5, size),
      '-': zoomed(view, 2, 0.5, size),
      '0': { start: 0, end: size },
      ArrowLeft: panned(view, -0.2, size),
      ArrowRight: panned(view, 0.2, size),
    };
    const to = next[event.key];
    if (!to) return;
    event.preventDefault();
    setView(to);
  };
  const show = (region: ByteRegion) => {
    setChosen(region);
    setView(viewAbout((region.start + region.end) / 2, (region.end - region.start) * 1.3, size));
  };
  return (
    <figure className={styles.mapFigure}>
      <MapTools view={view} size={size} chosen={chosen} onView={setView} />
      <div
        ref={map}
        className={styles.map}
        tabIndex={0}
        role="group"
        aria-label={`Byte map, ${regions.length} stretches; plus and minus zoom, arrows move`}
        onKeyDown={onKeyDown}
      >
        {layOutBars(regions, view).map(({ region, left, width }) => (
          <button
            key={region.start}
            type="button"
            className={styles.bar}
            data-kind={region.kind}
            data-chosen={chosen === region}
            style={{ left: `${left}%`, width: `${width}%`, background: FILL[region.name] ?? 'var(--soft)' }}
            title={describe(region)}
            aria-label={describe(region)}
            tabIndex={-1}
            onClick={() => show(region)}
          >
            {width > LABEL_ROOM ? <span>{region.name}</span> : null}
          </button>
        ))}
      </div>
      <figcaption className={styles.ticks} aria-hidden>
        {ticks(view).map(({ at, percent }) => (
          <span key={at} style={{ left: `${percent}%` }}>
            {at === 0 ? '0' : at % 1024 === 0 ? formatBytes(at) : at.toLocaleString('en')}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}

interface MapToolsProps {
  readonly view: View;
  readonly size: number;
  readonly chosen: ByteRegion | null;
  readonly onView: (view: View) => void;
}

function MapTools({ view, size, chosen, onView }: MapToolsProps) {
  const whole = view.start === 0 && view.end === size;
  return (
    <div className={styles.mapTools}>
      <span className="soft small">
        {whole
          ? `The whole file to scale, ${formatBytes(size)}`
          : `Bytes ${view.start.toLocaleString('en')} to ${view.end.toLocaleString('en')}, ${formatBytes(view.end - view.start)}`}
        {chosen && !whole ? ` · ${describe(chosen)}` : ''}
      </span>
      <span>
        <Button
          size="small"
          type="text"
          aria-label="Closer"
          onClick={() => onView(zoomed(view, 0.5, 0.5, size))}
        >
          +
        </Button>
        <Button
          size="small"
          type="text"
          aria-label="Farther"
          disabled={whole}
          onClick={() => onView(zoomed(view, 2, 0.5, size))}
        >
          −
        </Button>
        <Button size="small" type="text" disabled={whole} onClick={() => onView({ start: 0, end: size })}>
          Whole file
        </Button>
      </span>
    </div>
  );
}

const describe = ({ name, start, end }: ByteRegion) =>
  `${name}: ${formatBytes(end - start)} from byte ${start.toLocaleString('en')}`;
