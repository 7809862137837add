import type { SheetView } from '../api/client';
import type { Questioned } from '../sheet/questioned';
import type { SheetPlace } from '../api/paths';

/** The path of what is told of a number: its trail, its records, what drove it. */
export const addressed = <What extends 'trail' | 'records' | 'records/file' | 'drivers'>(
  base: SheetPlace,
  sheet: SheetView,
  cell: Questioned,
  what: What,
  more = '',
) =>
  `${base}/sheets/${sheet.key}/${what}?figure=${encodeURIComponent(cell.figure)}&line=${cell.line}&column=${cell.column}${more}` as const;
