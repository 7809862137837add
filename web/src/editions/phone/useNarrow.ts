import { useSyncExternalStore } from 'react';

const NARROW = '(max-width: 600px)';

const watched = (listener: () => void) => {
  const query = matchMedia(NARROW);
  query.addEventListener('change', listener);
  return () => query.removeEventListener('change', listener);
};

/** Whether the window is as narrow as a phone's. */
export const useNarrow = () => useSyncExternalStore(watched, () => matchMedia(NARROW).matches);
