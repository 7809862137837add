import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';

import { get, type SheetView, type WhatMoved } from '../api/client';
import type { Moved } from '../sheet/SheetRow';
import { marked } from '../sheet/marking';
import type { EditionPlace } from '../api/paths';

/** An edition with its texts, by its API address. */
export const useEdition = (base: EditionPlace) =>
  useQuery({ queryKey: ['edition', base], queryFn: () => get(base), retry: false });

/**
 * Its sheet, which never changes. A reader's address contains the edition's SHA-256, so that browsers and proxies may
 * cache the answer.
 */
export const useEditionSheet = (base: EditionPlace, sha256?: string) =>
  useQuery({
    queryKey: ['sheet', base],
    queryFn: ({ signal }) => get(`${base}/sheet?columns=18${sha256 ? `&sha256=${sha256}` : ''}`, { signal }),
    staleTime: Infinity,
    retry: false,
  });

/** What an edition is compared with: another by its id, the current data, or nothing. */
export type Against = number | 'now' | null;

export const useMoved = (base: EditionPlace, against: Against) =>
  useQuery({
    queryKey: ['moved', base, against],
    queryFn: ({ signal }) =>
      get(`${base}/moved?${against === 'now' ? '' : `against=${against}`}`, { signal }),
    enabled: against !== null,
    retry: false,
  });

/** The changed cells by line and column on the shown sheet, and that sheet with room for both numbers. */
export function useMarked(
  sheet: SheetView | undefined,
  moved: WhatMoved | undefined,
): [SheetView | undefined, Moved] {
  return useMemo(() => {
    if (!sheet || !moved) return [sheet, new Map()];
    const { widths, marks } = marked(sheet, moved.cells);
    return [{ ...sheet, widths }, new Map(marks)];
  }, [sheet, moved]);
}
