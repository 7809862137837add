import type { Report, ReportView } from '../api/client';

/** A change to a report: the whole document as it should be, or a step back or on. */
export type Step = { document: Report } | 'undo' | 'redo';

/** The changes to a report on their way to the server, one sent at a time, each to the revision before it.
 * A document that waits is superseded by the next; what the server has is `server`. */
export interface Queue {
  server: ReportView;
  sending: Step | null;
  waiting: Step[];
  conflict: { mine: Report; theirs: ReportView } | null;
}

export const begun = (server: ReportView): Queue => ({ server, sending: null, waiting: [], conflict: null });

/** The report as it is shown: with every change that was made, sent or not. */
export function shown(queue: Queue): Report {
  const steps = [queue.sending, ...queue.waiting].reverse();
  const last = steps.find((step) => step !== null && typeof step === 'object');
  return last ? last.document : (queue.conflict?.mine ?? queue.server.document);
}

/** A change was made. */
export function asked(queue: Queue, step: Step): Queue {
  const before = queue.waiting[queue.waiting.length - 1];
  const superseded = typeof step === 'object' && typeof before === 'object';
  return { ...queue, waiting: [...(superseded ? queue.waiting.slice(0, -1) : queue.waiting), step] };
}

/** The next change to send, once nothing is on its way and no conflict is open. */
export function next(queue: Queue): Step | null {
  return queue.sending || queue.conflict ? null : (queue.waiting[0] ?? null);
}

export const sent = (queue: Queue): Queue => ({
  ...queue,
  sending: queue.waiting[0] ?? null,
  waiting: queue.waiting.slice(1),
});

/** The server took the change. */
export const taken = (queue: Queue, server: ReportView): Queue => ({ ...queue, server, sending: null });

/** The server refused the change for what it says: it and those made after it are taken back. */
export const refused = (queue: Queue): Queue => ({ ...queue, sending: null, waiting: [] });

/** Somebody else changed the report meanwhile: nothing is sent until it is chosen which version stays. */
export function overtaken(queue: Queue, theirs: ReportView): Queue {
  return { server: theirs, sending: null, waiting: [], conflict: { mine: shown(queue), theirs } };
}

/** The version that stays was chosen. */
export function settled(queue: Queue, which: 'mine' | 'theirs'): Queue {
  if (!queue.conflict) return queue;
  const mine = { document: queue.conflict.mine };
  return { ...queue, conflict: null, waiting: which === 'mine' ? [mine, ...queue.waiting] : [] };
}

/** The report as the server has it came in by another way, as by opening the page again. */
export const seen = (queue: Queue, server: ReportView): Queue =>
  queue.sending || queue.waiting.length > 0 || queue.conflict ? queue : { ...queue, server };
