import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useReducer, useState } from 'react';

import { Fault, post, put, type Grouping, type GroupingView } from '../api/client';
import { isTyping } from '../parts/keys';

interface History<G> {
  /** The version that the changes are based on. */
  base: GroupingView;
  past: G[];
  now: G;
  future: G[];
}
type Step<G> = { to: G } | 'undo' | 'redo' | { reset: GroupingView } | { rebase: GroupingView };

function step<G>(history: History<G>, action: Step<G>): History<G> {
  const { past, now, future } = history;
  if (action === 'undo') {
    const [last] = past.slice(-1);
    return last ? { ...history, past: past.slice(0, -1), now: last, future: [now, ...future] } : history;
  }
  if (action === 'redo') {
    const [next, ...later] = future;
    return next ? { ...history, past: [...past, now], now: next, future: later } : history;
  }
  if ('reset' in action) return begun(action.reset);
  if ('rebase' in action) return { ...history, base: action.rebase };
  return { ...history, past: [...past, now], now: action.to, future: [] };
}

const begun = <G>(base: GroupingView): History<G> => ({
  base,
  past: [],
  now: base.document as G,
  future: [],
});

/** Whether two groupings are equal, ignoring names. */
const alike = (one: Grouping, other: Grouping) =>
  JSON.stringify({ ...one, name: '' }) === JSON.stringify({ ...other, name: '' });

/** A grouping being edited: nothing is saved before its effect on the reports was shown; with undo and redo.
 * A version that somebody else saves meanwhile is not overwritten: it is kept as `other` until one of the two is chosen. */
export function useDraft<G extends Grouping>(view: GroupingView) {
  const queries = useQueryClient();
  const [history, go] = useReducer(step<G>, view, begun<G>);
  const [looking, look] = useState(false);
  const { base, now } = history;
  const dirty = history.past.length > 0 && !alike(now, base.document);
  const newer = view.revision !== base.revision;
  const other = newer && dirty && !alike(view.document, base.document);
  if (newer && !other) go(dirty ? { rebase: view } : { reset: view });
  const settle = (saved: GroupingView) => {
    queries.setQueryData(['grouping', view.id], saved);
    void queries.invalidateQueries({ queryKey: ['groupings'] });
    void queries.invalidateQueries({ queryKey: ['sheet'] });
    look(false);
    go({ reset: saved });
  };
  const failed = (error: Error) => {
    if (error instanceof Fault && error.status === 412)
      void queries.invalidateQueries({ queryKey: ['grouping', view.id] });
  };
  const save = useMutation({
    mutationFn: (onto: GroupingView) =>
      put(`/groupings/${view.id}`, { ...now, name: onto.document.name }, { revision: onto.revision }),
    onSuccess: settle,
    onError: failed,
  });
  const back = useMutation({
    mutationFn: (way: 'undo' | 'redo') =>
      post(`/groupings/${view.id}/${way}`, undefined, { revision: base.revision }),
    onSuccess: settle,
    onError: failed,
  });
  const impact = useQuery({
    queryKey: ['impact', view.id, view.revision, JSON.stringify(now)],
    queryFn: () => post(`/groupings/${view.id}/impact`, now),
    enabled: dirty && view.used_by.length > 0,
    retry: false,
  });
  const { mutate: stepBack } = back;
  const atStart = history.past.length === 0;
  const atEnd = history.future.length === 0;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isTyping(event)) return;
      event.preventDefault();
      if (event.shiftKey) return atEnd ? stepBack('redo') : go('redo');
      return atStart ? stepBack('undo') : go('undo');
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [atStart, atEnd, stepBack]);
  const theirs = other && looking;
  return {
    now: theirs ? (view.document as G) : now,
    dirty,
    impact: impact.data,
    error: other ? null : (save.error ?? impact.error ?? back.error),
    saving: save.isPending,
    change: (to: G) => {
      if (!theirs) go({ to });
    },
    save: () => save.mutate(base),
    /** Saves; a refusal is shown on the screen. */
    saved: () => save.mutateAsync(base),
    leave: () => go({ reset: view }),
    /** The version that somebody else saved meanwhile; null if nobody did. */
    other: other
      ? {
          looking,
          look,
          keepMine: () => save.mutate(view),
          takeTheirs: () => {
            look(false);
            save.reset();
            go({ reset: view });
          },
        }
      : null,
  };
}

export type Draft<G extends Grouping> = ReturnType<typeof useDraft<G>>;
