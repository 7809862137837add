import { useEffect } from 'react';

import { isModal } from './keys';
import { useLatest } from './useLatest';

const open: (() => void)[] = [];

window.addEventListener('keydown', (event) => {
  if (event.key !== 'Escape' || event.defaultPrevented || isModal()) return;
  open[open.length - 1]?.();
});

/** Close what is open with Escape, wherever the focus is: what was opened last goes first. Dialogs and menus that hold the focus
 * close by themselves, before all else. */
export function useEscape(close: () => void, active = true) {
  const latest = useLatest(close);
  useEffect(() => {
    if (!active) return;
    open.push(latest);
    return () => {
      open.splice(open.lastIndexOf(latest), 1);
    };
  }, [latest, active]);
}
