import './note.css';

import { Button, LinearProgress } from '@mui/material';

import type { JobView } from '../api/client';
import { count } from './words';

/** How far a piece of work is, with a way to stop it. What is counted is told by `said`: records, or bytes as a share. */
export function JobProgress({
  job,
  stop,
  said = counted,
}: {
  job: JobView;
  stop: () => void;
  said?: (job: JobView) => string;
}) {
  return (
    <div>
      <LinearProgress
        color="secondary"
        {...(job.total ? { variant: 'determinate' as const, value: (100 * job.done) / job.total } : {})}
      />
      <div style={{ display: 'flex', alignItems: 'center' }}>
        <span className="quiet">{said(job)}</span>
        <Button onClick={stop} sx={{ ml: 'auto' }}>
          Stop
        </Button>
      </div>
    </div>
  );
}

const counted = ({ done, total }: JobView) =>
  total > 0 ? `${count(done)} of ${count(total)}` : `${count(done)} so far`;

/** The share that is done, of work that is counted in bytes. */
export const share = ({ done, total }: JobView) =>
  total > 0 ? `${Math.floor((100 * done) / total)} % read` : 'starting';
