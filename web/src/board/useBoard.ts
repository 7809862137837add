import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

import { get, post } from '../api/client';

/** The board's view: a calendar ("" is that of most reports), its grain, and how many pages back. */
export interface Shown {
  calendar: string;
  every: string;
  back: number;
}

const asked = ({ calendar, every, back }: Shown) => {
  const words = new URLSearchParams({ every, back: String(back) });
  if (calendar) words.set('calendar', calendar);
  return words.toString();
};

/**
 * The board, at once as far as it is known; the remaining editions are compared with the current data a few at a time.
 */
export function useBoard(shown: Shown) {
  const queries = useQueryClient();
  const key = ['board', shown.calendar, shown.every, shown.back];
  const found = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => get(`/board?${asked(shown)}`, { signal }),
    placeholderData: keepPreviousData,
    refetchInterval: 30_000,
  });
  const pending = found.data?.pending ?? 0;
  useEffect(() => {
    if (!pending || found.isPlaceholderData) return;
    let left = false;
    void post(`/board/settled?${asked(shown)}`)
      .then((next) => {
        if (!left) queries.setQueryData(key, next);
      })
      .catch(() => undefined);
    return () => {
      left = true;
    };
    // asked again while any is left
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pending, found.isPlaceholderData, asked(shown)]);
  return found;
}
