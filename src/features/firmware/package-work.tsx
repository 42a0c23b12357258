import { Button, Progress } from 'antd';
import { formatBytes, formatSeconds } from '@/ui/format';
import type { ReadSoFar } from '@/workers/firmware/firmware-client';
import styles from './firmware.module.css';
import type { PackageWork as Work } from './use-package';

const PHASES: Readonly<Record<string, string>> = {
  extract: 'unpacked and checked',
  copy: 'copied',
  'check the archive': 'of the archive checked against its MD5 line',
};

/** What is under way, and which parts of the file were read for it: the file is never read whole. */
export function PackageWork({
  work,
  read,
  sizeBytes,
  onStop,
}: {
  work: Work;
  read: ReadSoFar;
  sizeBytes: number;
  onStop: () => void;
}) {
  const progress = work.kind === 'taking' ? work.progress : null;
  const title = {
    idle: 'What was read of the file',
    opening: 'Reading the index',
    taking: 'Taking it out',
    keeping: 'Into the vault, hashed again there',
  }[work.kind];
  const share = sizeBytes > 0 ? (100 * read.bytesRead) / sizeBytes : 0;
  const left = work.kind === 'taking' ? work.secondsLeft : null;
  const more =
    (work.kind === 'taking' || work.kind === 'keeping') && work.left > 0 ? `, then ${work.left} more` : '';
  return (
    <div className={styles.job} aria-live="polite">
      <div className={styles.jobHead}>
        <b>
          {title}
          {work.kind === 'taking' || work.kind === 'keeping' ? `: ${work.partition}${more}` : ''}
        </b>
        <span className="soft">
          {progress
            ? `${formatBytes(progress.doneBytes)} of ${formatBytes(progress.totalBytes)} ${PHASES[progress.phase] ?? progress.phase}${left === null ? '' : `, ${formatSeconds(left)} left`}`
            : `${formatBytes(read.bytesRead)} of ${formatBytes(sizeBytes)} read, ${share < 0.1 ? 'under 0.1' : share.toFixed(1)} %`}
        </span>
        {work.kind === 'opening' || work.kind === 'taking' ? (
          <Button size="small" onClick={onStop}>
            Stop
          </Button>
        ) : null}
      </div>
      {progress ? (
        <Progress
          percent={Math.round((100 * progress.doneBytes) / Math.max(1, progress.totalBytes))}
          showInfo={false}
          size="small"
          aria-label="How far"
        />
      ) : null}
      <div
        className={styles.track}
        role="img"
        aria-label={`${read.ranges.length} stretches of the file were read`}
      >
        {read.ranges.map(([start, end]) => (
          <i
            key={start}
            style={{
              left: `${(100 * start) / Math.max(1, sizeBytes)}%`,
              width: `${(100 * (end - start)) / Math.max(1, sizeBytes)}%`,
            }}
          />
        ))}
      </div>
    </div>
  );
}
