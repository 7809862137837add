import { merged } from './merging';
import { same } from './same';
import type { Gathering, OtherSource, Renaming, Report, ReportView, Ungrouping } from '../api/client';

/** A change to a report: the whole document as it should be, a step back or on, or lines gathered, ungrouped or renamed, or the
 * report put over another source. */
export type Step =
  | { document: Report }
  | { gather: Gathering }
  | { ungroup: Ungrouping }
  | { over: OtherSource }
  | { rename: Renaming }
  | 'undo'
  | 'redo';

const isDocument = (step: Step | null | undefined): step is { document: Report } =>
  typeof step === 'object' && step !== null && 'document' in step;

/** The changes to a report on their way to the server, one sent at a time, each to the revision before it.
 * A document that waits is superseded by the next; what the server has is `server`. `unsure`: the first that waits was
 * sent once without an answer, so that the server may have it already. */
export interface Queue {
  server: ReportView;
  sending: Step | null;
  waiting: Step[];
  unsure: boolean;
  conflict: { mine: Report; theirs: ReportView } | null;
}

export const begun = (server: ReportView): Queue => ({
  server,
  sending: null,
  waiting: [],
  unsure: false,
  conflict: null,
});

/** The report as it is shown: with every change that was made, sent or not. */
export function shown(queue: Queue): Report {
  const steps = [queue.sending, ...queue.waiting].reverse();
  const last = steps.find(isDocument);
  return last ? last.document : (queue.conflict?.mine ?? queue.server.document);
}

/** A change was made. One that was sent without an answer is not superseded: the server may have it. */
export function asked(queue: Queue, step: Step): Queue {
  const settled = queue.unsure ? 1 : 0;
  const before = queue.waiting.length > settled ? queue.waiting[queue.waiting.length - 1] : undefined;
  const superseded = isDocument(step) && isDocument(before);
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

/** The server took the change; a document that says what was sent stays the one that is shown. */
export function taken(queue: Queue, server: ReportView): Queue {
  const sent = isDocument(queue.sending) ? queue.sending.document : null;
  const document = sent && same(sent, server.document) ? sent : server.document;
  return { ...queue, server: { ...server, document }, sending: null, unsure: false };
}

/** The server did not answer: the change stays queued and is sent again. */
export const held = (queue: Queue): Queue =>
  queue.sending
    ? { ...queue, sending: null, waiting: [queue.sending, ...queue.waiting], unsure: true }
    : queue;

/** The server rejected the change: it and those made after it are rolled back. */
export const refused = (queue: Queue): Queue => ({ ...queue, sending: null, waiting: [], unsure: false });

/** The report is another by now, `theirs`: changes to other phrases are made to it; where both changed the same phrase, nothing
 * is sent until it is chosen which version stays. Steps back or on alone
 * hold no version: they are let go, for what they would undo is not what was looked at. Where theirs is what was sent, or
 * the revision before that a step back leads to, it is one's own, whose answer was lost. */
export function overtaken(queue: Queue, theirs: ReportView): Queue {
  if (isDocument(queue.sending) && same(queue.sending.document, theirs.document)) return taken(queue, theirs);
  if (queue.unsure && queue.sending === 'undo' && theirs.revision < queue.server.revision)
    return taken(queue, theirs);
  const mine = [queue.sending, ...queue.waiting].some(isDocument);
  const both = mine ? merged(queue.server.document, shown(queue), theirs.document) : null;
  const waiting = both && !same(both, theirs.document) ? [{ document: both }] : [];
  const conflict = mine && !both ? { mine: shown(queue), theirs } : null;
  return { server: theirs, sending: null, waiting, unsure: false, conflict };
}

/** A version was chosen to resolve the conflict. */
export function settled(queue: Queue, which: 'mine' | 'theirs'): Queue {
  if (!queue.conflict) return queue;
  const mine = { document: queue.conflict.mine };
  return { ...queue, conflict: null, waiting: which === 'mine' ? [mine, ...queue.waiting] : [] };
}

/** Whether every change is saved on the server. */
export const saved = (queue: Queue): boolean =>
  !queue.sending && queue.waiting.length === 0 && !queue.conflict;

/** The server's version arrived another way, for example by reloading the page. */
export const seen = (queue: Queue, server: ReportView): Queue =>
  saved(queue) && server.revision !== queue.server.revision ? { ...queue, server } : queue;
