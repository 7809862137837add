import { useEffect, useRef } from 'react';

import type { At } from '../../sheet/grid';
import type { Row } from '../../sheet/outline';

/** Keeps the focus on a line that is moved, so that it can be moved repeatedly. */
export function useFollowed(
  rows: Row[],
  path: string | null,
  at: number | undefined,
  move: (to: At, extend: boolean) => void,
) {
  const row = path === null ? -1 : rows.findIndex((one) => one.path === path);
  const before = useRef(row);
  useEffect(() => {
    const moved = before.current >= 0 && row >= 0 && before.current !== row && at === before.current;
    before.current = row;
    if (moved) move({ row, place: -1 }, false);
  }, [row, at, move]);
}
