/** A cell by its row among those shown and its position among the columns of figures; negative ones are labels. */
export interface At {
  row: number;
  place: number;
}

/** The focused cell, and the opposite corner of a block selected from it. */
export interface Grid {
  at: At | null;
  corner: At | null;
}

export interface Block {
  top: number;
  bottom: number;
  first: number;
  last: number;
}

/** The block between two cells; null while only one is chosen. */
export function blockOf({ at, corner }: Grid): Block | null {
  if (!at || !corner || (at.row === corner.row && at.place === corner.place)) return null;
  return {
    top: Math.min(at.row, corner.row),
    bottom: Math.max(at.row, corner.row),
    first: Math.min(at.place, corner.place),
    last: Math.max(at.place, corner.place),
  };
}

const STEPS: Record<string, [number, number]> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  PageDown: [20, 0],
  PageUp: [-20, 0],
};

/** Where a key leads from a cell in a sheet of so many rows and places; null for other keys. */
export function led(from: At, key: string, whole: boolean, rows: number, places: number): At | null {
  if (key === 'Home') return { row: whole ? 0 : from.row, place: -1 };
  if (key === 'End') return { row: whole ? rows - 1 : from.row, place: places - 1 };
  const step = STEPS[key];
  if (!step) return null;
  const row = whole && step[0] ? (step[0] > 0 ? rows - 1 : 0) : from.row + step[0];
  const place = whole && step[1] ? (step[1] > 0 ? places - 1 : -1) : from.place + step[1];
  return {
    row: Math.max(0, Math.min(rows - 1, row)),
    place: Math.max(-1, Math.min(places - 1, place)),
  };
}
