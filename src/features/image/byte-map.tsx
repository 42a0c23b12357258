import { scaleLinear } from 'd3';
import type { ImageReport } from '@/core/packages/inspect-image';
import { formatBytes } from '@/ui/format';
import styles from './image.module.css';

const FILL: Readonly<Record<string, string>> = { header: 'var(--ink)', kernel: 'var(--stock)', ramdisk: 'var(--root)', signature: 'var(--wait)' };
const WIDTH = 1000;

/** The file to scale: its sections where they lie, and what is padding between them. */
export function ByteMap({ report }: { report: ImageReport }) {
  const x = scaleLinear([0, report.size], [0, WIDTH]);
  return (
    <svg
      className={styles.map}
      viewBox={`0 0 ${WIDTH} 46`}
      preserveAspectRatio="none"
      role="img"
      aria-label={`Sections of the image, ${formatBytes(report.size)} in all`}
    >
      <rect x={0} y={6} width={WIDTH} height={26} fill="var(--faint)" stroke="var(--line)" vectorEffect="non-scaling-stroke" />
      {report.sections.map((section) => (
        <rect
          key={section.name}
          x={x(section.offset)}
          y={6}
          width={Math.max(2, x(section.size))}
          height={26}
          fill={FILL[section.name] ?? 'var(--soft)'}
        >
          <title>{`${section.name}: ${formatBytes(section.size)} from byte ${section.offset}`}</title>
        </rect>
      ))}
      {report.avb ? <rect x={WIDTH - 3} y={6} width={3} height={26} fill="var(--bad)" /> : null}
    </svg>
  );
}
