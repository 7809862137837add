import { Fault, get, post, type Report, type ReportView, type SheetView, type Shown } from '../api/client';
import * as queueing from './editQueue';
import type { Queue, Step } from './editQueue';

const AGAIN = [1000, 2000, 4000, 8000, 15000];

/** The state of a report's edits: the queue, an error that rolled an edit back, and why edits wait. */
export interface EditState {
  queue: Queue;
  error: Error | null;
  waits: string | null;
}

/** Told of what the server has by now, and of the document that was sent where that is the one shown from now on; null where
 * more than the document may have changed. */
type Saved = (
  answer: { report: ReportView; sentence: Shown | null; sheet: SheetView | null },
  sent: Report | null,
) => void;

/** The edits of one report in this window. They outlive the screen that made them: what is not yet with the server is
 * sent again until it answers, whatever is looked at meanwhile. */
export class Edits {
  state: EditState;
  private listeners = new Set<() => void>();
  private tries = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private inView = '';
  private readonly id: number;
  private readonly saved: Saved;

  constructor(id: number, server: ReportView, saved: Saved) {
    this.id = id;
    this.saved = saved;
    this.state = { queue: queueing.begun(server), error: null, waits: null };
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  ask = (step: Step) => {
    this.state = { ...this.state, queue: queueing.asked(this.state.queue, step), error: null };
    if (!this.pump()) this.tell(this.state);
  };

  settle = (which: 'mine' | 'theirs') => {
    this.tell({ ...this.state, queue: queueing.settled(this.state.queue, which) });
    this.pump();
  };

  /** Set which part of the sheet is in view, as a query, so that an edit's answer contains just that. */
  look = (inView: string) => {
    this.inView = inView;
  };

  seen = (server: ReportView) => {
    const queue = queueing.seen(this.state.queue, server);
    if (queue !== this.state.queue) this.tell({ ...this.state, queue });
  };

  /** Retry at once what waits for the server. */
  again = () => {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.pump();
  };

  private tell(state: EditState) {
    this.state = state;
    this.listeners.forEach((listener) => listener());
  }

  /** Send the next change, before it is rendered; returns whether there was one. */
  private pump(): boolean {
    const step = queueing.next(this.state.queue);
    if (!step || this.timer !== undefined) return false;
    const { revision } = this.state.queue.server;
    const answered = send(this.id, step, revision, this.inView);
    this.tell({ ...this.state, queue: queueing.sent(this.state.queue) });
    answered
      .then((answer) => {
        this.tries = 0;
        const sent = typeof step === 'object' && 'document' in step ? step.document : null;
        const queue = queueing.taken(this.state.queue, answer.report);
        this.saved(answer, sent && queueing.shown({ ...queue, waiting: [] }) === sent ? sent : null);
        this.tell({ ...this.state, queue, waits: null });
        this.pump();
      })
      .catch((fault: Error) => this.failed(fault));
    return true;
  }

  private async failed(fault: Error) {
    const status = fault instanceof Fault ? fault.status : 0;
    const theirs = status === 412 ? await latest(this.id) : null;
    const { queue } = this.state;
    if (theirs) {
      const lost = !queue.unsure && typeof queue.sending === 'string';
      const error = lost ? new Fault('somebody else changed the report meanwhile; nothing was undone') : null;
      this.tell({ queue: queueing.overtaken(queue, theirs), error, waits: null });
      this.saved({ report: theirs, sentence: null, sheet: null }, null);
      this.pump();
    } else if (status === 412 || isUnanswered(status)) {
      this.tell({ ...this.state, queue: queueing.held(queue), waits: fault.message });
      this.timer = setTimeout(this.again, AGAIN[Math.min(this.tries, AGAIN.length - 1)]);
      this.tries += 1;
    } else {
      this.tell({ queue: queueing.refused(queue), error: fault, waits: null });
    }
  }
}

/** Whether an answer says nothing about the change itself: no answer, or a server that is temporarily unavailable. */
const isUnanswered = (status: number) => status === 0 || status === 408 || status === 429 || status >= 500;

function send(id: number, step: Step, revision: number, inView: string) {
  if (typeof step === 'string')
    return post(`/reports/${id}/edits?step=${step}&${inView}`, undefined, { revision });
  if ('gather' in step) return post(`/reports/${id}/gather?${inView}`, step.gather, { revision });
  if ('ungroup' in step) return post(`/reports/${id}/ungroup?${inView}`, step.ungroup, { revision });
  if ('over' in step) return post(`/reports/${id}/over?${inView}`, step.over, { revision });
  if ('rename' in step) return post(`/reports/${id}/rename?${inView}`, step.rename, { revision });
  return post(`/reports/${id}/edits?${inView}`, step.document, { revision });
}

const latest = (id: number) => get(`/reports/${id}`).catch(() => null);

const open = new Map<number, Edits>();

/** The edits of a report in this window: the existing object, or a new one based on the server's version. */
export function editsOf(id: number, server: ReportView, saved: Saved): Edits {
  const found = open.get(id);
  if (found) return found;
  const edits = new Edits(id, server, saved);
  open.set(id, edits);
  return edits;
}

window.addEventListener('beforeunload', (event) => {
  if ([...open.values()].some((edits) => !queueing.saved(edits.state.queue))) event.preventDefault();
});
window.addEventListener('online', () => open.forEach((edits) => edits.again()));
