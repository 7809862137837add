import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { post, put, sendFile, type ColumnReading, type Kept, type WaitingView } from '../api/client';

/** A file on its way in: read and looked at, then kept or left. */
export function useBringingIn(source: string, kept: (kept: Kept) => void) {
  const queries = useQueryClient();
  const [waiting, setWaiting] = useState<WaitingView | null>(null);
  const look = useMutation({ mutationFn: (file: File) => sendFile(file, source), onSuccess: setWaiting });
  const again = useMutation({
    mutationFn: (change: { columns?: Record<string, ColumnReading>; source?: string }) =>
      put<WaitingView>(`/waiting/${waiting?.token}`, change),
    onSuccess: setWaiting,
  });
  const keep = useMutation({
    mutationFn: () => post<Kept>(`/waiting/${waiting?.token}/keep${waiting?.already ? '?again=true' : ''}`),
    onSuccess: (result) => {
      setWaiting(null);
      void queries.invalidateQueries();
      kept(result);
    },
  });
  return {
    waiting,
    busy: look.isPending || again.isPending || keep.isPending,
    error: look.error ?? again.error ?? keep.error,
    look: (file: File) => {
      again.reset();
      keep.reset();
      look.mutate(file);
    },
    readAgain: again.mutate,
    keep: () => keep.mutate(),
    leave: () => {
      setWaiting(null);
      look.reset();
      again.reset();
      keep.reset();
    },
  };
}

export type BringingIn = ReturnType<typeof useBringingIn>;
