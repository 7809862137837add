import * as fc from 'fast-check';
import { expect, test } from 'vitest';

import type { Report, ReportView } from '../api/client';
import * as queueing from './editQueue';
import type { Queue, Step } from './editQueue';

const document = (title: string) =>
  ({
    title,
    source: 'Sales',
    figures: [{ name: 'Records', take: 'count', of: null }],
    only: [],
  }) as unknown as Report;
const view = (revision: number, title: string) => ({ id: 1, revision, document: { title } }) as ReportView;
const edit = (title: string) => ({ document: { title } as Report });

test('edits wait in a queue and supersede each other', () => {
  const [first, second, third] = ['B', 'C', 'D'].map(edit) as [Step, Step, Step];
  let queue = queueing.begun(view(3, 'A'));
  expect(queueing.next(queue)).toBeNull();
  queue = queueing.sent(queueing.asked(queue, first));
  for (const step of [second, third]) queue = queueing.asked(queue, step);
  expect([queue.sending, queue.waiting, queueing.shown(queue)]).toEqual([first, [third], { title: 'D' }]);
  expect(queueing.next(queue)).toBeNull();
  queue = queueing.taken(queue, view(4, 'B'));
  expect([queueing.next(queue), queueing.shown(queue)]).toEqual([third, { title: 'D' }]);
  queue = queueing.asked(queueing.asked(queue, 'undo'), second);
  expect(queue.waiting).toEqual([third, 'undo', second]);
});

test('what is refused is taken back, and what was overtaken is chosen', () => {
  const mine = edit('Mine');
  const sending = queueing.sent(queueing.asked(queueing.begun(view(3, 'A')), mine));
  const refused = queueing.refused(sending);
  expect([refused.waiting, queueing.shown(refused)]).toEqual([[], { title: 'A' }]);
  const open = queueing.overtaken(sending, view(4, 'Theirs'));
  expect([queueing.next(open), queueing.shown(open)]).toEqual([null, { title: 'Mine' }]);
  const kept = queueing.settled(open, 'mine');
  expect([queueing.next(kept), kept.server.revision]).toEqual([mine, 4]);
  const taken = queueing.settled(open, 'theirs');
  expect([queueing.next(taken), queueing.shown(taken)]).toEqual([null, { title: 'Theirs' }]);
});

/** One report with its revisions; a change made to an older one is refused. */
class Server {
  revisions = [document('first')];
  follows = [0];
  current = 1;

  get view(): ReportView {
    const plain: Partial<Report> = structuredClone(this.revisions[this.current - 1]) ?? {};
    delete plain.only; // what stands at its default is left unsaid
    return { id: 1, revision: this.current, document: plain } as ReportView;
  }

  take(step: Step, revision: number): boolean {
    if (revision !== this.current) return false;
    if (step === 'undo') this.current = this.follows[this.current - 1] || this.current;
    else if (typeof step === 'object' && 'document' in step) {
      const now = this.revisions[this.current - 1];
      if (JSON.stringify(step.document) === JSON.stringify(now)) return true;
      this.revisions.push(step.document);
      this.follows.push(this.current);
      this.current = this.revisions.length;
    }
    return true;
  }

  get titles() {
    return this.revisions.map((one) => one.title);
  }
}

/** Sends the next change; the server accepts it or not, and its answer arrives or not. */
function answered(queue: Queue, server: Server, applied = true, heard = true): Queue {
  const step = queueing.next(queue);
  if (step === null) return queue;
  const { revision } = queue.server;
  const sent = queueing.sent(queue);
  const taken = applied && server.take(step, revision);
  if (!heard || !applied) return queueing.held(sent);
  return (taken ? queueing.taken : queueing.overtaken)(sent, server.view);
}

const STEPS = fc.array(
  fc.constantFrom('edit', 'edit', 'answer', 'answer', 'lost on the way', 'answer lost', 'theirs', 'undo'),
  { maxLength: 24 },
);

test('every edit is with the server, or shown for a choice', () => {
  fc.assert(
    fc.property(STEPS, (steps) => {
      const server = new Server();
      let queue = queueing.begun(server.view);
      let [last, others] = ['first', false];
      steps.forEach((step, at) => {
        if (step === 'edit') {
          last = `edit ${at}`;
          queue = queueing.asked(queue, { document: document(last) });
          expect(queueing.shown(queue).title).toBe(last);
        } else if (step === 'undo') {
          if (others) return;
          queue = queueing.asked(queue, 'undo');
          last = '';
        } else if (step === 'theirs') {
          others = true;
          server.take({ document: document(`theirs ${at}`) }, server.current);
        } else queue = answered(queue, server, step !== 'lost on the way', step === 'answer');
      });
      for (let i = 0; i <= steps.length; i += 1) queue = answered(queue, server);
      for (let i = 0; i < 2 && queue.conflict; i += 1) {
        expect(others || last === '').toBe(true); // a second time where they changed it while it was looked at
        queue = queueing.settled(queue, 'mine');
        for (let k = 0; k < 2; k += 1) queue = answered(queue, server);
      }
      expect(queueing.saved(queue)).toBe(true);
      if (last) expect(server.titles).toContain(last);
      if (last && !others) expect(server.view.document.title).toBe(last);
    }),
    { numRuns: 300 },
  );
});

test("an edit whose answer was lost is not taken for somebody else's", () => {
  const server = new Server();
  let queue = queueing.asked(queueing.begun(server.view), { document: document('one') });
  queue = answered(queue, server, true, false);
  queue = queueing.asked(queue, { document: document('two') });
  for (let i = 0; i < 2; i += 1) queue = answered(queue, server);
  expect(queue.conflict).toBeNull();
  expect(server.titles).toEqual(['first', 'one', 'two']);
});
