import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';

import { get, type EditionView, type SheetView, type WhatMoved } from '../api/client';
import { movedKey, type Moved } from '../report/sheet/SheetRow';

/** An edition with its words, by where it is answered for. */
export const useEdition = (base: string) =>
  useQuery({ queryKey: ['edition', base], queryFn: () => get<EditionView>(base), retry: false });

/** Its sheet; it never changes. */
export const useEditionSheet = (base: string) =>
  useQuery({
    queryKey: ['sheet', base],
    queryFn: ({ signal }) => get<SheetView>(`${base}/sheet?columns=18`, { signal }),
    staleTime: Infinity,
    retry: false,
  });

/** What an edition is held against: another by its id, now, or nothing. */
export type Against = number | 'now' | null;

export const useMoved = (base: string, against: Against) =>
  useQuery({
    queryKey: ['moved', base, against],
    queryFn: ({ signal }) =>
      get<WhatMoved>(`${base}/moved${against === 'now' ? '' : `?against=${against}`}`, { signal }),
    enabled: against !== null,
    retry: false,
  });

/** The moved cells by line and place on the sheet that is shown, and that sheet with room for both numbers. */
export function useMarked(
  sheet: SheetView | undefined,
  moved: WhatMoved | undefined,
): [SheetView | undefined, Moved] {
  return useMemo(() => {
    const marks = new Map<string, { was: string; now: string }>();
    if (!sheet || !moved) return [sheet, marks];
    const figures = new Map(sheet.figures.map((figure, i) => [figure.name, i]));
    const columns = new Map(sheet.columns.map((column, i) => [column.id, i]));
    const widths = [...sheet.widths];
    for (const cell of moved.cells) {
      const column = cell.column === null ? undefined : columns.get(cell.column);
      const figure = figures.get(cell.figure);
      if (cell.line === null || column === undefined || figure === undefined) continue;
      if (cell.was === cell.now) continue; // it moved beyond the digits that are shown
      const place = column * sheet.figures.length + figure;
      marks.set(movedKey(cell.line, place), { was: cell.was, now: cell.now });
      widths[place] = Math.max(widths[place] ?? 0, cell.was.length + (cell.now || 'blank').length + 1);
    }
    return [{ ...sheet, widths }, marks];
  }, [sheet, moved]);
}
