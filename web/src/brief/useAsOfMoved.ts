import { useState } from 'react';

const key = (id: number) => `kalendor.as-of.${id}`;

function noted(id: number): string | null {
  try {
    return localStorage.getItem(key(id));
  } catch {
    return null;
  }
}

function note(id: number, day: string) {
  try {
    localStorage.setItem(key(id), day);
  } catch {
    // where nothing can be kept, nothing is said of a move
  }
}

/** The as-of date that a report had when it was last seen here, where it moved since by itself, as with new records; null where
 * it did not. `seen` says that the move is known. */
export function useAsOfMoved(id: number, now: string | undefined, given: boolean) {
  const [known, setKnown] = useState(() => noted(id));
  const learn = (day: string) => {
    note(id, day);
    setKnown(day);
  };
  if (now !== undefined && known !== now && (known === null || given)) learn(now);
  return { from: now !== undefined && known !== now ? known : null, seen: () => now && learn(now) };
}
