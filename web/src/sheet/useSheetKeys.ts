import { useEffect, useRef } from 'react';

import { isElsewhere } from '../parts/keys';

/** The keys of the sheet that hold wherever the focus is: find and chart. */
export function useSheetKeys(does: { find: () => void; chart: () => void }) {
  const now = useRef(does);
  useEffect(() => {
    now.current = does;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (isElsewhere(event) || event.metaKey || event.altKey) return;
      const key = event.key.toLowerCase();
      if (key === 'f' && !event.shiftKey) {
        event.preventDefault();
        now.current.find();
      } else if (key === 'c' && !event.ctrlKey) now.current.chart();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
}
