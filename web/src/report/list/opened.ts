import { day } from '../../parts/words';

const key = (id: number) => `kalendor.opened.${id}`;

/** Records in this browser that a report was opened now. */
export function noteOpened(id: number) {
  try {
    localStorage.setItem(key(id), new Date().toISOString());
  } catch {
    // a browser that keeps nothing does not say when
  }
}

/** When a report was last opened here, in ISO 8601; empty if never. */
export const openedOn = (id: number): string => localStorage.getItem(key(id)) ?? '';

/** When a report was last opened here, in words; null if never. */
export function openedAt(id: number, now = new Date()): string | null {
  const told = localStorage.getItem(key(id));
  if (!told) return null;
  const days = Math.floor(now.getTime() / 86_400_000) - Math.floor(Date.parse(told) / 86_400_000);
  return days === 0 ? 'opened today' : days === 1 ? 'opened yesterday' : `opened ${day(told)}`;
}
