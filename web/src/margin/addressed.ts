import type { SheetView } from '../api/client';
import type { Questioned } from '../sheet/questioned';

/** The path of what is told of a number: its trail, its records, what drove it. */
export const addressed = (base: string, sheet: SheetView, cell: Questioned, what: string, more = '') =>
  `${base}/sheets/${sheet.key}/${what}?figure=${encodeURIComponent(cell.figure)}&line=${cell.line}&column=${cell.column}${more}`;
