import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useSyncExternalStore } from 'react';

import type { Gathering, OtherSource, Renaming, Report, Ungrouping } from '../api/client';
import { useReport } from '../api/queries';
import { isTyping } from '../parts/keys';
import { sentenceKey } from './sentence';
import * as queueing from './editQueue';
import type { Step } from './editQueue';
import { editsOf } from './edits';

const idle = () => () => undefined;

/** A report being edited: every change is shown at once and saved in its turn, and can be undone and redone, also after
 * a reload. Where the server does not answer the changes wait and are sent again; where somebody else changed the report
 * meanwhile, both versions are shown and one is chosen. */
export function useReportEditing(id: number) {
  const queries = useQueryClient();
  const found = useReport(id);
  const latest = found.data;
  const edits = useMemo(() => {
    if (!latest) return null;
    return editsOf(id, latest, ({ report: view, sentence, sheet }, sent) => {
      if (sheet) queries.setQueryData(['sheet', id, view.revision], sheet);
      if (sentence) queries.setQueryData(sentenceKey(view.document), sentence);
      if (sentence && sent) queries.setQueryData(sentenceKey(sent), sentence);
      if (!sent) void queries.invalidateQueries({ queryKey: ['groupings'] });
      void queries.cancelQueries({ queryKey: ['report', id] });
      queries.setQueryData(['report', id], view);
      void queries.invalidateQueries({ queryKey: ['reports'] });
    });
    // the edits of a report are one object as long as the window lives; `seen` tells them what came in since
  }, [id, latest, queries]);
  useEffect(() => {
    if (latest) edits?.seen(latest);
  }, [edits, latest]);
  const state = useSyncExternalStore(edits?.subscribe ?? idle, () => edits?.state ?? null);
  const ask = useCallback((step: Step) => edits?.ask(step), [edits]);

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isTyping(event)) return;
      event.preventDefault();
      ask(event.shiftKey ? 'redo' : 'undo');
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [ask]);

  const does = useMemo(
    () => ({
      again: () => edits?.again(),
      inView: (query: string) => edits?.look(query),
      change: (document: Report) => edits?.ask({ document }),
      settle: (which: 'mine' | 'theirs') => edits?.settle(which),
      gather: (what: Gathering) => edits?.ask({ gather: what }),
      ungroup: (what: Ungrouping) => edits?.ask({ ungroup: what }),
      over: (what: OtherSource) => edits?.ask({ over: what }),
      rename: (what: Renaming) => edits?.ask({ rename: what }),
      undo: () => edits?.ask('undo'),
      redo: () => edits?.ask('redo'),
    }),
    [edits],
  );
  const queue = state?.queue;
  return {
    view: queue?.server,
    shown: queue ? queueing.shown(queue) : undefined,
    conflict: queue?.conflict ?? null,
    error: found.error ?? state?.error ?? null,
    waits: state?.waits ?? null,
    saving: Boolean(queue?.sending) && !state?.waits && !queue?.conflict,
    ...does,
  };
}
