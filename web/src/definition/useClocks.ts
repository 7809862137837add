import { useMemo } from 'react';

import { useSource, useSources } from '../api/queries';

/** The columns of a source that hold times of day beside dates, so that hours and minutes can be made of them. */
export function useClocks(source: string): ReadonlySet<string> {
  const id = useSources().data?.find((s) => s.name.toLowerCase() === source.toLowerCase())?.id;
  const columns = useSource(id).data?.columns;
  return useMemo(
    () => new Set((columns ?? []).filter((c) => c.kind === 'datetime').map((c) => c.name)),
    [columns],
  );
}
