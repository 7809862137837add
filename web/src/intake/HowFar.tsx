import './intake.css';
import '../parts/note.css';

import { Button, LinearProgress } from '@mui/material';

import { count } from '../parts/words';
import type { BringingIn } from './useBringingIn';

/** How far reading or keeping is, with a way to stop it; nothing before its job has begun. */
export function HowFar({ way }: { way: BringingIn }) {
  const { job } = way;
  if (!job) return null;
  return (
    <div>
      <LinearProgress
        color="secondary"
        {...(job.total ? { variant: 'determinate' as const, value: (100 * job.done) / job.total } : {})}
      />
      <div style={{ display: 'flex', alignItems: 'center' }}>
        <span className="quiet">
          {job.total > 0 ? `${count(job.done)} of ${count(job.total)}` : `${count(job.done)} so far`}
        </span>
        <Button onClick={way.stop} sx={{ ml: 'auto' }}>
          Stop
        </Button>
      </div>
    </div>
  );
}

/** The note that stands on a page while a file is read. */
export function ReadingNote({ way }: { way: BringingIn }) {
  if (!way.reading || !way.job) return null;
  return (
    <div className="note reading" role="status">
      Reading the file. Nothing is kept yet.
      <HowFar way={way} />
    </div>
  );
}
