import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { Fault, get, post, put, sendFile, type JobView, type Reread, type WaitingView } from '../api/client';

const EVERY = 250;
const pause = () => new Promise((go) => setTimeout(go, EVERY));

/** A file on its way in: read and looked at, then kept (as a job that can be stopped) or left. */
export function useBringingIn(source: string, kept: (source: number) => void = () => undefined) {
  const queries = useQueryClient();
  const [waiting, setWaiting] = useState<WaitingView | null>(null);
  const [job, setJob] = useState<JobView | null>(null);
  const look = useMutation({
    mutationFn: ({ file, mends }: { file: File; mends?: number }) => sendFile(file, source, mends),
    onSuccess: setWaiting,
  });
  const again = useMutation({
    mutationFn: (change: Reread) => put<WaitingView>(`/waiting/${waiting?.token}`, change),
    onSuccess: setWaiting,
  });
  const keep = useMutation({
    mutationFn: async () => {
      let now = await post<JobView>(
        `/waiting/${waiting?.token}/keep${waiting?.already ? '?again=true' : ''}`,
      );
      while (now.state === 'working') {
        setJob(now);
        await pause();
        now = await get<JobView>(`/jobs/${now.id}`);
      }
      if (now.state !== 'done' || now.source === null) throw new Fault(now.message);
      return now.source;
    },
    onSuccess: (id) => {
      setWaiting(null);
      void queries.invalidateQueries();
      kept(id);
    },
    onSettled: () => setJob(null),
  });
  const clear = () => [look, again, keep].forEach((mutation) => mutation.reset());
  return {
    waiting,
    job,
    busy: look.isPending || again.isPending || keep.isPending,
    error: look.error ?? again.error ?? keep.error,
    look: (file: File, mends?: number) => {
      clear();
      look.mutate(mends === undefined ? { file } : { file, mends });
    },
    readAgain: (change: Reread) => {
      keep.reset();
      again.mutate(change);
    },
    keep: () => keep.mutate(),
    stop: () => void (job && post(`/jobs/${job.id}/stop`)),
    leave: () => {
      setWaiting(null);
      clear();
    },
  };
}

export type BringingIn = ReturnType<typeof useBringingIn>;
