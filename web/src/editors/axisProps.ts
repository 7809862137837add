import type { AxisEntry, ColumnView, Report } from '../api/client';

/** The props of editors of axis entries. */
export interface AxisProps<E extends AxisEntry> {
  entry: E;
  source: string;
  columns: ColumnView[];
  figures: string[];
  /** The report, for properties of its lines as a whole; not for columns. */
  report?: Report | undefined;
  set?: (report: Report) => void;
  /** The as-of date of the report's sheet, for ages; today if there is no sheet yet. */
  asOf?: string | undefined;
  change: (entry: AxisEntry) => void;
}
