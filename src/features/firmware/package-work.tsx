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

const TITLES: Readonly<Record<Work['kind'], string>> = {
  idle: 'What was read of the file',
  opening: 'Reading the index',
  taking: 'Taking it out',
  keeping: 'Into the vault, hashed again there',
};

function titleOf(work: Work): string {
  if (work.kind !== 'taking' && work.kind !== 'keeping') return TITLES[work.kind];
  return `${TITLES[work.kind]}: ${work.partition}${work.left > 0 ? `, then ${work.left} more` : ''}`;
}

function sayHowFar(work: Work, { bytesRead }: ReadSoFar, sizeBytes: number): string {
  if (work.kind === 'taking' && work.progress) {
    const { doneBytes, totalBytes, phase } = work.progress;
    const left = work.secondsLeft === null ? '' : `, ${formatSeconds(work.secondsLeft)} left`;
    return `${formatBytes(doneBytes)} of ${formatBytes(totalBytes)} ${PHASES[phase] ?? phase}${left}`;
  }
  const share = sizeBytes > 0 ? (100 * bytesRead) / sizeBytes : 0;
  return `${formatBytes(bytesRead)} of ${formatBytes(sizeBytes)} read, ${share < 0.1 ? 'under 0.1' : share.toFixed(1)} %`;
}

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
  return (
    <div className={styles.job} aria-live="polite">
      <div className={styles.jobHead}>
        <b>{titleOf(work)}</b>
        <span className="soft">{sayHowFar(work, read, sizeBytes)}</span>
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
