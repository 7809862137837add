import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';

import { Fault, get, post, put, remove, sendFile, type WaitingView } from '../api/client';
import { watched } from '../parts/jobs';

/** One of several files: it is read, waits for a person, is in, was left out, or could not be read. */
export interface Arrival {
  name: string;
  state: 'reading' | 'waiting' | 'in' | 'out' | 'failed';
  view?: WaitingView;
  source?: number;
  fault?: string;
}

/** Why a file is to be looked at before it is imported; empty where nothing of it is in doubt. */
export function doubt(view: WaitingView): string {
  const { outcome, changes } = view;
  if (outcome.problem) return outcome.problem;
  if (view.already) return `its content is there already: ${view.already}`;
  if (view.is_new) return 'it would make a new source';
  if (outcome.held[0]) return outcome.held[0];
  const differs = changes && (changes.columns.length > 0 || changes.layout);
  if (differs && !view.sure) return 'it is not like the files before';
  if (view.columns.some((column) => column.rival || column.open_mark)) return 'it can be read in two ways';
  const [first] = outcome.added;
  return first === undefined ? '' : `it has a new column, ${first}`;
}

export const isReady = (file: Arrival) => file.state === 'waiting' && file.view && doubt(file.view) === '';

/** Files read one after another, each for the source that it belongs to; those without a doubt are imported together. */
export function useSeveral(files: File[]) {
  const queries = useQueryClient();
  const [arrivals, setArrivals] = useState<Arrival[]>([]);
  const [busy, setBusy] = useState(false);
  const begun = useRef(0);
  const reading = useRef(Promise.resolve());
  const set = (at: number, next: Partial<Arrival>) =>
    setArrivals((now) => now.map((one, i) => (i === at ? { ...one, ...next } : one)));
  useEffect(() => {
    const first = begun.current;
    const fresh = files.slice(first);
    begun.current = files.length;
    setArrivals((now) => [...now, ...fresh.map((file) => ({ name: file.name, state: 'reading' as const }))]);
    const read = async (file: File, at: number) => {
      try {
        const job = await watched(await sendFile(file, '', { match: true }), () => undefined);
        set(at, { state: 'waiting', view: await get(`/waiting/${job.token}`) });
      } catch (fault) {
        set(at, { state: 'failed', fault: (fault as Error).message });
      }
    };
    fresh.forEach((file, i) => {
      reading.current = reading.current.then(() => read(file, first + i));
    });
  }, [files]);
  const keep = async (at: number, view: WaitingView) => {
    try {
      const path = `/waiting/${view.token}/keep?seen=${view.changes !== null}` as const;
      const job = await watched(await post(path), () => undefined);
      if (job.state !== 'done' || job.source === null) throw new Fault(job.message);
      set(at, { state: 'in', source: job.source });
    } catch (fault) {
      const now = await get(`/waiting/${view.token}`).catch(() => null);
      set(
        at,
        now
          ? { view: now, fault: (fault as Error).message }
          : { state: 'failed', fault: (fault as Error).message },
      );
    }
  };
  return {
    arrivals,
    busy: busy || arrivals.some((one) => one.state === 'reading'),
    /** Import all that are in no doubt, in the order in which their months stand. */
    importReady: async () => {
      setBusy(true);
      const ready = arrivals.map((one, at) => ({ one, at })).filter(({ one }) => isReady(one));
      ready.sort((a, b) => (a.one.view?.first_day ?? '').localeCompare(b.one.view?.first_day ?? ''));
      for (const { one, at } of ready) await keep(at, one.view as WaitingView);
      await again(arrivals, set);
      setBusy(false);
      void queries.invalidateQueries();
    },
    /** Take a file for another source. */
    takeFor: async (at: number, source: string) => {
      try {
        const view = await put(`/waiting/${arrivals[at]?.view?.token}`, { source });
        set(at, { view, fault: '' });
      } catch (fault) {
        set(at, { fault: (fault as Error).message });
      }
    },
    leaveOut: (at: number) => {
      void remove(`/waiting/${arrivals[at]?.view?.token}`);
      set(at, { state: 'out' });
    },
    dealt: (at: number, source: number | null) =>
      set(at, source === null ? { state: 'out' } : { state: 'in', source }),
  };
}

/** What the files that still wait would do is seen anew: others are in by now. */
async function again(arrivals: Arrival[], set: (at: number, next: Partial<Arrival>) => void) {
  for (const [at, one] of arrivals.entries()) {
    if (one.state !== 'waiting' || isReady(one)) continue;
    const view = await get(`/waiting/${one.view?.token}`).catch(() => null);
    if (view) set(at, { view });
  }
}
