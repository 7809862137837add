import './intake.css';
import '../parts/note.css';

import { JobProgress } from '../parts/JobProgress';
import type { BringingIn } from './useBringingIn';

/** How far reading or keeping is, with a way to stop it; nothing before its job has begun. */
export const HowFar = ({ way }: { way: BringingIn }) =>
  way.job && <JobProgress job={way.job} stop={way.stop} />;

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
