'use client';
import { Progress } from 'antd';
import type { JobView } from '@/contracts/job-view';
import { formatBytes } from '@/ui/format';
import { StopButton } from '@/ui/stop-button';
import styles from './store.module.css';

/** A job under way, with how far it is and a way to stop it. */
export function JobLine({ job }: { job: JobView }) {
  const percent = Math.floor((100 * job.doneBytes) / Math.max(1, job.totalBytes));
  return (
    <div className={styles.job}>
      <Progress percent={percent} showInfo={false} strokeColor="var(--root)" style={{ width: 180 }} />
      <span className="small">
        {formatBytes(job.doneBytes)} of {formatBytes(job.totalBytes)}
      </span>
      <StopButton jobId={job.id} />
    </div>
  );
}
