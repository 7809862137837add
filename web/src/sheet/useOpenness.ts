import { useEffect, useState } from 'react';

import { isElsewhere } from '../parts/keys';
import type { Openness } from './outline';

const key = (id: string) => `kalendor.open.${id}`;

/** How far a report's sheet was last opened here. */
export function openness(id: string): Openness {
  try {
    return JSON.parse(localStorage.getItem(key(id)) ?? '') as Openness;
  } catch {
    return { depth: 9, byHand: {} };
  }
}

/** Which groups are open, stored by report or edition in this browser; the number keys open to a level. */
export function useOpenness(id: string, levels: number): [Openness, (open: Openness) => void] {
  const [open, setOpen] = useState<Openness>(() => openness(id));
  useEffect(() => localStorage.setItem(key(id), JSON.stringify(open)), [id, open]);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (isElsewhere(event) || event.ctrlKey || event.metaKey || event.altKey || !/^[0-9]$/.test(event.key))
        return;
      setOpen({ depth: Math.min(Number(event.key), levels), byHand: {} });
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [levels]);
  return [open, setOpen];
}
