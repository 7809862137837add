import { useMemo } from 'react';

import { useSource, useSources } from '../api/queries';

/** The columns of a source that have times of day, so that hours and minutes are available. */
export function useClocks(source: string): ReadonlySet<string> {
  const id = useSources().data?.find((s) => s.name.toLowerCase() === source.toLowerCase())?.id;
  const columns = useSource(id).data?.columns;
  return useMemo(
    () => new Set((columns ?? []).filter((c) => c.kind === 'datetime').map((c) => c.name)),
    [columns],
  );
}
