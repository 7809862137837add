import type { AxisEntry } from '../api/client';
import type { AxisProps } from './axisProps';
import { Categories } from './CategoryFields';
import { Periods } from './PeriodFields';
import { Cuts, OpenItems } from './RangeFields';

/** What makes lines or columns: a category, a period, ranges or ages. */
export function AxisEditor({ entry, ...rest }: AxisProps<AxisEntry>) {
  if ('period' in entry) return <Periods entry={entry} {...rest} />;
  if ('category' in entry) return <Categories entry={entry} {...rest} />;
  if ('bucket' in entry) return <Cuts label={`Ranges of ${entry.bucket}`} entry={entry} {...rest} />;
  return (
    <>
      <Cuts label={`Ages by ${entry.age}`} entry={entry} {...rest} />
      <OpenItems entry={entry} columns={rest.columns} change={rest.change} />
    </>
  );
}
