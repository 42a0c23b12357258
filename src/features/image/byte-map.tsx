import { scaleLinear } from 'd3';
import type { ImageReport } from '@/core/packages/inspect-image';
import { formatBytes } from '@/ui/format';
import styles from './image.module.css';

const FILL: Readonly<Record<string, string>> = { header: 'var(--ink)', kernel: 'var(--stock)', ramdisk: 'var(--root)', signature: 'var(--wait)' };
const WIDTH = 1000;

/** Names under the map where there is room for them. Percent of the file from its start. */
function layOutLabels(report: ImageReport): { text: string; percent: number }[] {
  const labels = report.sections
    .filter((section) => section.name !== 'header')
    .map((section) => ({ text: `${section.name}, ${formatBytes(section.size)}`, percent: (100 * section.offset) / report.size }));
  const last = report.sections.at(-1);
  const end = last ? (100 * (last.offset + last.size)) / report.size : 0;
  const rest = end < 80 ? [{ text: report.avb ? 'padding, then verified-boot data at the end' : 'padding', percent: Math.max(end, 16) }] : [];
  return [...labels, ...rest].filter((label, i, all) => i === 0 || label.percent - all[i - 1]!.percent >= 12);
}

/** The file to scale: its sections where they lie, and what is padding between them. */
export function ByteMap({ report }: { report: ImageReport }) {
  const x = scaleLinear([0, report.size], [0, WIDTH]);
  return (
    <figure className={styles.mapFigure}>
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
      <figcaption className="soft small">
        {layOutLabels(report).map((label) => (
          <span key={label.text} style={{ left: `${label.percent}%` }}>
            {label.text}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}
