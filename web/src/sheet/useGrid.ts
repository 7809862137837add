import { useCallback, useState } from 'react';

import type { At, Grid } from './grid';

/** The focus and the selection of a sheet. */
export function useGrid() {
  const [grid, setGrid] = useState<Grid>({ at: null, corner: null });
  const move = useCallback(
    (to: At, extend: boolean) =>
      setGrid((before) => ({
        at: extend && before.at ? before.at : to,
        corner: to,
      })),
    [],
  );
  const extend = useCallback(
    (corner: At) => setGrid((before) => (before.at ? { ...before, corner } : before)),
    [],
  );
  const whole = useCallback((at: At, corner: At) => setGrid({ at, corner }), []);
  const clear = useCallback(() => setGrid({ at: null, corner: null }), []);
  return { grid, move, extend, whole, clear };
}
