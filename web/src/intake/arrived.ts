import { useSyncExternalStore } from 'react';

let files: File[] = [];
let from = '/sources';
const told = new Set<() => void>();

/** Files that were dropped or chosen together, for the list of sources to take in beside those that are in it; `on` is the
 * screen where they were. */
export function arrive(more: File[], on = '/sources') {
  if (files.length === 0) from = on;
  files = [...files, ...more];
  told.forEach((tell) => tell());
}

/** All that arrived is dealt with. */
export function dealtWith() {
  files = [];
  told.forEach((tell) => tell());
}

/** The screen to go back to once all of them are in. */
export const cameFrom = () => from;

/** What arrived and was not dealt with yet. */
export function useArrived(): File[] {
  return useSyncExternalStore(
    (tell) => {
      told.add(tell);
      return () => told.delete(tell);
    },
    () => files,
  );
}
