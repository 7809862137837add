import type { AxisEntry, ColumnView } from '../api/client';

/** What the editors of axis entries are given. */
export interface AxisProps<E extends AxisEntry> {
  entry: E;
  source: string;
  columns: ColumnView[];
  figures: string[];
  change: (entry: AxisEntry) => void;
}
