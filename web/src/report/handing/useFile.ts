import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { Fault, get, post, type JobView } from '../../api/client';

const PAUSE = 400;
const pause = () => new Promise((go) => setTimeout(go, PAUSE));

/** A file made by a job on the server, downloaded when it is done; it can be cancelled. */
export function useFile(done?: () => void) {
  const [job, setJob] = useState<JobView | null>(null);
  const making = useMutation({
    mutationFn: async (begin: () => Promise<JobView>) => {
      let now = await begin();
      setJob(now);
      while (now.state === 'working') {
        await pause();
        now = await get(`/jobs/${now.id}`);
        setJob(now);
      }
      if (now.state === 'stopped') return;
      if (now.state !== 'done') throw new Fault(now.message);
      const link = document.createElement('a');
      link.href = `/api/jobs/${now.id}/file`;
      link.download = '';
      link.click();
      done?.();
    },
    onSettled: () => setJob(null),
  });
  return {
    make: making.mutate,
    busy: making.isPending,
    error: making.error,
    job,
    stop: () => void (job && post(`/jobs/${job.id}/stop`)),
  };
}
