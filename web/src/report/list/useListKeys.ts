import { useEffect, useRef } from 'react';

import { isElsewhere } from '../../parts/keys';

/** The keys of the list of reports: `/` searches, N begins a new one. */
export function useListKeys(does: { search: () => void; add: () => void }) {
  const now = useRef(does);
  useEffect(() => {
    now.current = does;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (isElsewhere(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === '/') {
        event.preventDefault();
        now.current.search();
      } else if (event.key.toLowerCase() === 'n') {
        event.preventDefault();
        now.current.add();
      }
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
}
