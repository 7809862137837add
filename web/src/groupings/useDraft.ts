import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useReducer } from 'react';

import { post, put, type Grouping, type GroupingView, type Impact } from '../api/client';
import { isTyping } from '../parts/keys';

interface History<G> {
  past: G[];
  now: G;
  future: G[];
}
type Step<G> = { to: G } | 'undo' | 'redo' | { reset: G };

function step<G>(history: History<G>, action: Step<G>): History<G> {
  if (action === 'undo') {
    const [last] = history.past.slice(-1);
    return last
      ? { past: history.past.slice(0, -1), now: last, future: [history.now, ...history.future] }
      : history;
  }
  if (action === 'redo') {
    const [next, ...future] = history.future;
    return next ? { past: [...history.past, history.now], now: next, future } : history;
  }
  if ('reset' in action) return { past: [], now: action.reset, future: [] };
  return { past: [...history.past, history.now], now: action.to, future: [] };
}

/** A grouping being changed: nothing is saved before its effect on the reports has been seen; undo and redo on the way. */
export function useDraft<G extends Grouping>(view: GroupingView) {
  const queries = useQueryClient();
  const [history, go] = useReducer(step<G>, { past: [], now: view.document as G, future: [] });
  const dirty = history.past.length > 0 && JSON.stringify(history.now) !== JSON.stringify(view.document);
  const settle = (saved: GroupingView) => {
    queries.setQueryData(['grouping', view.id], saved);
    void queries.invalidateQueries({ queryKey: ['groupings'] });
    void queries.invalidateQueries({ queryKey: ['sheet'] });
    go({ reset: saved.document as G });
  };
  const save = useMutation({
    mutationFn: () =>
      put<GroupingView>(
        `/groupings/${view.id}`,
        { ...history.now, name: view.document.name },
        { revision: view.revision },
      ),
    onSuccess: settle,
  });
  const back = useMutation({
    mutationFn: (way: 'undo' | 'redo') => post<GroupingView>(`/groupings/${view.id}/${way}`),
    onSuccess: settle,
  });
  const impact = useQuery({
    queryKey: ['impact', view.id, view.revision, JSON.stringify(history.now)],
    queryFn: () => post<Impact[]>(`/groupings/${view.id}/impact`, history.now),
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
  return {
    now: history.now,
    dirty,
    impact: impact.data,
    error: save.error ?? impact.error ?? back.error,
    saving: save.isPending,
    change: (to: G) => go({ to }),
    save: () => save.mutate(),
    leave: () => go({ reset: view.document as G }),
  };
}

export type Draft<G extends Grouping> = ReturnType<typeof useDraft<G>>;
