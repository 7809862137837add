import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';

import { Fault, get, post, put, type Report, type ReportView } from '../api/client';
import { useReport } from '../api/queries';
import { isTyping } from '../parts/keys';
import * as queueing from './editQueue';
import type { Queue, Step } from './editQueue';

/** A report being edited: every change is shown at once and saved in its turn, and can be undone and redone, also after
 * a reload. Where somebody else changed it meanwhile, both versions are shown and one is chosen. */
export function useReportEditing(id: number) {
  const queries = useQueryClient();
  const found = useReport(id);
  const [queue, setQueue] = useState<Queue | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const latest = found.data;
  if (latest && queue === null) setQueue(queueing.begun(latest));
  const busy = useRef(false);

  const ask = useCallback((step: Step) => {
    setError(null);
    setQueue((now) => now && queueing.asked(now, step));
  }, []);

  useEffect(() => {
    const step = queue && queueing.next(queue);
    if (!queue || !step || busy.current) return;
    busy.current = true;
    const { revision } = queue.server;
    setQueue((now) => now && queueing.sent(now));
    send(id, step, revision)
      .then((view) => {
        busy.current = false;
        queries.setQueryData(['report', id], view);
        void queries.invalidateQueries({ queryKey: ['reports'] });
        setQueue((now) => now && queueing.taken(now, view));
      })
      .catch(async (fault: Error) => {
        const theirs = await overtaking(id, fault);
        busy.current = false;
        if (!theirs) setError(fault);
        setQueue((now) => now && (theirs ? queueing.overtaken(now, theirs) : queueing.refused(now)));
      });
  }, [queue, id, queries]);

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isTyping(event)) return;
      event.preventDefault();
      ask(event.shiftKey ? 'redo' : 'undo');
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [ask]);

  return {
    view: queue?.server,
    shown: queue ? queueing.shown(queue) : undefined,
    conflict: queue?.conflict ?? null,
    error: found.error ?? error,
    change: (document: Report) => ask({ document }),
    settle: (which: 'mine' | 'theirs') => setQueue((now) => now && queueing.settled(now, which)),
    undo: () => ask('undo'),
    redo: () => ask('redo'),
  };
}

const send = (id: number, step: Step, revision: number) =>
  typeof step === 'object'
    ? put<ReportView>(`/reports/${id}`, step.document, { revision })
    : post<ReportView>(`/reports/${id}/${step}`, undefined, { revision });

/** The report as somebody else made it, where that is why a change was refused. */
async function overtaking(id: number, fault: Error): Promise<ReportView | null> {
  if (!(fault instanceof Fault) || fault.status !== 412) return null;
  return get<ReportView>(`/reports/${id}`).catch(() => null);
}
