import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import {
  Fault,
  get,
  post,
  put,
  remove,
  sendFile,
  type Fetching,
  type JobView,
  type Reread,
  type WaitingView,
} from '../api/client';
import { watched } from '../parts/jobs';

/** A file on its way in: read and looked at, then kept or left. Reading and keeping are jobs that can be stopped. */
export function useBringingIn(source: string, kept: (source: number) => void = () => undefined) {
  const queries = useQueryClient();
  const [waiting, setWaiting] = useState<WaitingView | null>(null);
  const [job, setJob] = useState<JobView | null>(null);
  const done = (id: number) => {
    setWaiting(null);
    void queries.invalidateQueries();
    kept(id);
  };
  /** Keep a file that was looked at; the source that it went to. */
  const keeping = async (found: WaitingView) => {
    const seen = found.outcome.held.length > 0 || found.changes !== null;
    const path = `/waiting/${found.token}/keep?again=${Boolean(found.already)}&seen=${seen}` as const;
    const job = await watched(await post(path), setJob);
    if (job.state !== 'done' || job.source === null) throw new Fault(job.message);
    return job.source;
  };
  const look = useMutation({
    mutationFn: async ({ file, mends }: { file: File; mends?: number }) => {
      const read = await watched(await sendFile(file, source, { mends }), setJob);
      return read.token ? get(`/waiting/${read.token}`) : null;
    },
    onSuccess: setWaiting,
    onSettled: () => setJob(null),
  });
  const asked = useMutation({
    mutationFn: async (query: { source: string; fetching: Fetching }) => {
      const read = await watched(await post('/fetches', query), setJob);
      return read.token ? get(`/waiting/${read.token}`) : null;
    },
    onSuccess: setWaiting,
    onSettled: () => setJob(null),
  });
  const again = useMutation({
    mutationFn: (change: Reread) => put(`/waiting/${waiting?.token}`, change),
    onSuccess: setWaiting,
  });
  const dropped = useMutation({
    mutationFn: async ({ id, file, ifSure }: { id: number; file: string; ifSure: boolean }) => {
      const found = await post(`/sources/${id}/dropped/${encodeURIComponent(file)}`);
      if (!ifSure || !found.sure) return found;
      await keeping(found);
      return null;
    },
    onSuccess: (found, { id }) => (found ? setWaiting(found) : done(id)),
    onSettled: () => setJob(null),
  });
  const keep = useMutation({
    mutationFn: () => keeping(waiting as WaitingView),
    onSuccess: done,
    onSettled: () => setJob(null),
  });
  const clear = () => [look, asked, dropped, again, keep].forEach((mutation) => mutation.reset());
  return {
    waiting,
    job,
    reading: look.isPending || asked.isPending,
    busy: look.isPending || asked.isPending || dropped.isPending || again.isPending || keep.isPending,
    error: look.error ?? asked.error ?? dropped.error ?? again.error ?? keep.error,
    look: (file: File, mends?: number) => {
      clear();
      look.mutate(mends === undefined ? { file } : { file, mends });
    },
    /** Look at what a query gives; kept, it feeds that source. */
    ask: (source: string, fetching: Fetching) => {
      clear();
      asked.mutate({ source, fetching });
    },
    /** Look at a dropped file; where `ifSure` and nothing of it is in doubt, it is imported at once. */
    lookAtDropped: (id: number, file: string, ifSure = false) => {
      clear();
      dropped.mutate({ id, file, ifSure });
    },
    /** Show a file that waits already. */
    open: (found: WaitingView) => {
      clear();
      setWaiting(found);
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
