import { useQuery } from '@tanstack/react-query';

import { post, type SheetView } from '../../api/client';

const BLOCK = 200;

/** The cells of the lines in view: those that came with the sheet, others asked for as they are scrolled to. */
export function useCells(
  report: number,
  sheet: SheetView,
  lines: number[],
): (line: number) => string[] | undefined {
  const missing = lines.filter((line) => !sheet.cells[String(line)]);
  const blocks = [...new Set(missing.map((line) => Math.floor(line / BLOCK)))].sort((a, b) => a - b);
  const more = useQuery({
    queryKey: ['cells', sheet.key, blocks],
    queryFn: () =>
      post<Record<string, string[]>>(`/reports/${report}/sheets/${sheet.key}/lines`, {
        lines: blocks.flatMap((b) => Array.from({ length: BLOCK }, (_, i) => b * BLOCK + i)),
      }),
    enabled: blocks.length > 0,
    placeholderData: (before) => before,
  });
  return (line) => sheet.cells[String(line)] ?? more.data?.[String(line)];
}
