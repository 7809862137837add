import { useQueries } from '@tanstack/react-query';

import { post, type SheetView } from '../api/client';
import type { Drawn } from './outline';
import type { SheetPlace } from '../api/paths';

const PAGE = 100;

/** The visible records listed under lines, loaded a page of a line at a time. */
export function useListed(base: SheetPlace, sheet: SheetView, drawn: (Drawn | undefined)[]) {
  const wanted = new Map<string, [number, number]>();
  for (const one of drawn)
    if (one?.kind === 'record') {
      const page = Math.floor(one.record / PAGE);
      wanted.set(`${one.row.line} ${page}`, [one.row.line, page]);
    }
  const keys = [...wanted.values()];
  const found = useQueries({
    queries: keys.map(([line, page]) => ({
      queryKey: ['listed', sheet.key, line, page],
      queryFn: () =>
        post(`${base}/sheets/${sheet.key}/listed`, {
          line,
          start: page * PAGE,
          count: PAGE,
        }),
      staleTime: Infinity,
    })),
  });
  return (line: number, record: number): string[] | undefined => {
    const page = Math.floor(record / PAGE);
    const at = keys.findIndex(([l, p]) => l === line && p === page);
    return found[at]?.data?.[record - page * PAGE];
  };
}
