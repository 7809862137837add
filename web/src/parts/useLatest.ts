import { useCallback, useLayoutEffect, useRef } from 'react';

/** A function that stays the same object and does what the latest `does` does. */
export function useLatest<A extends unknown[]>(does: (...args: A) => void): (...args: A) => void {
  const latest = useRef(does);
  useLayoutEffect(() => {
    latest.current = does;
  });
  return useCallback((...args: A) => latest.current(...args), []);
}
