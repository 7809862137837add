import type { SheetView } from '../api/client';
import type { Questioned } from '../sheet/questioned';
import type { SheetPlace } from '../api/paths';

/** The API path for a number's trail, records, or drivers. */
export const addressed = <What extends 'trail' | 'records' | 'records/file' | 'drivers'>(
  base: SheetPlace,
  sheet: SheetView,
  cell: Questioned,
  what: What,
  more = '',
) =>
  `${base}/sheets/${sheet.key}/${what}?figure=${encodeURIComponent(cell.figure)}&line=${cell.line}&column=${cell.column}${more}` as const;
