import { useCallback, useEffect, useRef, useState } from 'react';

import { get, post, type JobView } from '../api/client';
import { watched } from './jobs';

/** A job watched to its end, which `ended` is told of; null while there is none. Nothing is told once the screen is left. */
export function useWatched(id: string | null, ended: (job: JobView) => void) {
  const [seen, setSeen] = useState<{ id: string; job: JobView | null; fault: Error | null } | null>(null);
  const told = useRef(ended);
  useEffect(() => {
    told.current = ended;
  });
  useEffect(() => {
    if (id === null) return;
    let left = false;
    const see = (job: JobView | null, fault: Error | null = null) => !left && setSeen({ id, job, fault });
    get(`/jobs/${id}`)
      .then((found) => watched(found, (now) => see(now)))
      .then((done) => {
        if (left) return;
        see(null);
        told.current(done);
      })
      .catch((fault: Error) => see(null, fault));
    return () => {
      left = true;
    };
  }, [id]);
  const stop = useCallback(() => {
    if (id !== null) void post(`/jobs/${id}/stop`);
  }, [id]);
  const now = seen?.id === id ? seen : null;
  return { job: now?.job ?? null, fault: now?.fault ?? null, stop };
}
