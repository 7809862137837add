import type { AxisEntry } from '../api/client';
import type { AxisProps } from './axisProps';
import { Categories } from './CategoryFields';
import { OrderFields } from './OrderFields';
import { Periods } from './PeriodFields';
import { Cuts, OpenItems } from './RangeFields';

/** An axis entry: a category, a period, ranges or ages. */
export function AxisEditor({ entry, ...rest }: AxisProps<AxisEntry>) {
  if ('category' in entry) return <Categories entry={entry} {...rest} />;
  return (
    <>
      {'period' in entry && <Periods entry={entry} {...rest} />}
      {'bucket' in entry && <Cuts label={`Ranges of ${entry.bucket}`} entry={entry} {...rest} />}
      {'age' in entry && <Cuts label={`Ages by ${entry.age}`} entry={entry} {...rest} />}
      {'age' in entry && <OpenItems entry={entry} columns={rest.columns} change={rest.change} />}
      <OrderFields entry={entry} figures={rest.figures} change={rest.change} />
    </>
  );
}
