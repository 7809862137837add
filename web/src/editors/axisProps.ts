import type { AxisEntry, ColumnView, Report } from '../api/client';

/** What the editors of axis entries are given. */
export interface AxisProps<E extends AxisEntry> {
  entry: E;
  source: string;
  columns: ColumnView[];
  figures: string[];
  /** The report, for what is said of its lines as a whole; not for columns. */
  report?: Report | undefined;
  set?: (report: Report) => void;
  /** The as-of date of the report's sheet, by which ages are told; today's where there is no sheet yet. */
  asOf?: string | undefined;
  change: (entry: AxisEntry) => void;
}
