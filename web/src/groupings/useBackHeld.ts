import { useEffect, useMemo, useRef } from 'react';

/** Holds the browser's way back while something is not saved: an entry of the same address is put on top of the history, and
 * going back takes that one away and asks first. */
export function useBackHeld(held: boolean, asked: () => void) {
  const on = useRef(false); // whether that entry is on top
  const ways = useMemo(
    () => ({
      /** Give the entry up to what replaces it; whether it was there. */
      release: () => {
        const was = on.current;
        on.current = false;
        return was;
      },
      hold: () => {
        if (!on.current) window.history.pushState(window.history.state, '');
        on.current = true;
      },
      go: () => {
        on.current = false;
        window.history.back();
      },
    }),
    [],
  );
  useEffect(() => {
    if (!held) return;
    ways.hold();
    const popped = () => {
      if (!on.current) return;
      on.current = false;
      asked();
    };
    window.addEventListener('popstate', popped);
    return () => {
      window.removeEventListener('popstate', popped);
    };
  }, [held, asked, ways]);
  useEffect(() => {
    if (!held && on.current) ways.go(); // saved: the entry is of no more use
  }, [held, ways]);
  return ways;
}
