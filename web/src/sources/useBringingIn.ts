import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import {
  Fault,
  get,
  post,
  put,
  remove,
  sendFile,
  type JobView,
  type Reread,
  type WaitingView,
} from '../api/client';

const EVERY = 250;
const pause = () => new Promise((go) => setTimeout(go, EVERY));

/** A piece of work watched to its end; it throws what went wrong, and gives the job where it was done or stopped. */
async function watched(job: JobView, see: (job: JobView) => void): Promise<JobView> {
  let now = job;
  while (now.state === 'working') {
    see(now);
    await pause();
    now = await get<JobView>(`/jobs/${now.id}`);
  }
  if (now.state === 'failed') throw new Fault(now.message);
  return now;
}

/** A file on its way in: read and looked at, then kept or left. Reading and keeping are jobs that can be stopped. */
export function useBringingIn(source: string, kept: (source: number) => void = () => undefined) {
  const queries = useQueryClient();
  const [waiting, setWaiting] = useState<WaitingView | null>(null);
  const [job, setJob] = useState<JobView | null>(null);
  const look = useMutation({
    mutationFn: async ({ file, mends }: { file: File; mends?: number }) => {
      const read = await watched(await sendFile(file, source, mends), setJob);
      return read.token ? get<WaitingView>(`/waiting/${read.token}`) : null;
    },
    onSuccess: setWaiting,
    onSettled: () => setJob(null),
  });
  const dropped = useMutation({
    mutationFn: ({ id, file }: { id: number; file: string }) =>
      post<WaitingView>(`/sources/${id}/dropped/${encodeURIComponent(file)}`),
    onSuccess: setWaiting,
  });
  const again = useMutation({
    mutationFn: (change: Reread) => put<WaitingView>(`/waiting/${waiting?.token}`, change),
    onSuccess: setWaiting,
  });
  const keep = useMutation({
    mutationFn: async () => {
      const seen = (waiting?.outcome.held.length ?? 0) > 0;
      const path = `/waiting/${waiting?.token}/keep?again=${Boolean(waiting?.already)}&seen=${seen}`;
      const done = await watched(await post<JobView>(path), setJob);
      if (done.state !== 'done' || done.source === null) throw new Fault(done.message);
      return done.source;
    },
    onSuccess: (id) => {
      setWaiting(null);
      void queries.invalidateQueries();
      kept(id);
    },
    onSettled: () => setJob(null),
  });
  const clear = () => [look, dropped, again, keep].forEach((mutation) => mutation.reset());
  return {
    waiting,
    job,
    reading: look.isPending,
    busy: look.isPending || dropped.isPending || again.isPending || keep.isPending,
    error: look.error ?? dropped.error ?? again.error ?? keep.error,
    look: (file: File, mends?: number) => {
      clear();
      look.mutate(mends === undefined ? { file } : { file, mends });
    },
    lookAtDropped: (id: number, file: string) => {
      clear();
      dropped.mutate({ id, file });
    },
    readAgain: (change: Reread) => {
      keep.reset();
      again.mutate(change);
    },
    keep: () => keep.mutate(),
    stop: () => void (job && post(`/jobs/${job.id}/stop`)),
    leave: () => {
      if (waiting) void remove(`/waiting/${waiting.token}`);
      setWaiting(null);
      clear();
    },
  };
}

export type BringingIn = ReturnType<typeof useBringingIn>;
