import '../../parts/note.css';

import { useQueryClient } from '@tanstack/react-query';

import { Fault } from '../../api/client';
import { FaultNote } from '../../parts/Fault';
import { JobProgress, share } from '../../parts/JobProgress';
import { useWatched } from '../../parts/useWatched';
import { capital } from '../../parts/words';

/** Why a sheet is not shown: a linked folder is being read for it, with progress, or an error. */
export function BeingRead({ error, again }: { error: Error | null; again: () => void }) {
  const queries = useQueryClient();
  const waits = error instanceof Fault ? error.job : null;
  const { job, fault, stop } = useWatched(waits, (done) => {
    if (done.state !== 'done') return;
    void queries.invalidateQueries({ queryKey: ['glance'] });
    again();
  });
  if (waits === null || fault) return <FaultNote error={fault ?? error} />;
  return (
    <div className="note" role="status">
      {capital((error as Fault).message)}. You may go on meanwhile; what is read now is kept, so that next
      time only new files are.
      {job ? (
        <JobProgress job={job} stop={stop} said={share} />
      ) : (
        <div>
          <button className="link" onClick={again}>
            Read on
          </button>
        </div>
      )}
    </div>
  );
}
