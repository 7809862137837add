import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

import { Fault, post, type LinesView, type SheetView } from '../../api/client';

const BLOCK = 200;

/** The texts of a line, and the places of those that compare only a part of what is shown. */
export interface Cells {
  texts: string[] | undefined;
  cut: number[];
}

/** The cells of the lines in view: those that came with the sheet, others asked for as they are scrolled to. Cells of
 * another sheet are never shown; where the server has this one no more, the sheet is asked for again. */
export function useCells(report: number, sheet: SheetView, lines: number[]): (line: number) => Cells {
  const queries = useQueryClient();
  const missing = lines.filter((line) => !sheet.cells[String(line)]);
  const blocks = [...new Set(missing.map((line) => Math.floor(line / BLOCK)))].sort((a, b) => a - b);
  const more = useQuery({
    queryKey: ['cells', sheet.key, blocks],
    queryFn: ({ signal }) =>
      post<LinesView>(
        `/reports/${report}/sheets/${sheet.key}/lines`,
        { lines: blocks.flatMap((b) => Array.from({ length: BLOCK }, (_, i) => b * BLOCK + i)) },
        { signal },
      ),
    enabled: blocks.length > 0,
    placeholderData: (before, query) => (query?.queryKey[1] === sheet.key ? before : undefined),
    retry: false,
  });
  const moved = more.error instanceof Fault && more.error.status === 409;
  useEffect(() => {
    if (moved) void queries.invalidateQueries({ queryKey: ['sheet', report] });
  }, [moved, queries, report]);
  return (line) => {
    const at = String(line);
    return {
      texts: sheet.cells[at] ?? more.data?.cells[at],
      cut: sheet.cut[at] ?? more.data?.cut[at] ?? [],
    };
  };
}
