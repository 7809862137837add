import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect } from 'react';

import { post, put, type Report, type ReportView } from '../api/client';
import { useReport } from '../api/queries';
import { isTyping } from '../parts/keys';

/** A report being edited: every change is saved at once, and can be undone and redone, also after a reload. */
export function useReportEditing(id: number) {
  const queries = useQueryClient();
  const found = useReport(id);
  const settle = useCallback(
    (view: ReportView) => {
      queries.setQueryData(['report', id], view);
      void queries.invalidateQueries({ queryKey: ['reports'] });
    },
    [queries, id],
  );
  const save = useMutation({
    mutationFn: (report: Report) => put<ReportView>(`/reports/${id}`, report),
    onSuccess: settle,
  });
  const step = useMutation({
    mutationFn: (way: 'undo' | 'redo') => post<ReportView>(`/reports/${id}/${way}`),
    onSuccess: settle,
  });
  const { mutate: go } = step;
  const clear = save.reset;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isTyping(event)) return;
      event.preventDefault();
      clear();
      go(event.shiftKey ? 'redo' : 'undo');
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [go, clear]);
  return {
    view: found.data,
    error: found.error ?? save.error ?? step.error,
    saving: save.isPending || step.isPending,
    change: (report: Report) => save.mutate(report),
    undo: () => {
      clear();
      go('undo');
    },
    redo: () => go('redo'),
  };
}
