import '../../parts/note.css';
import './handing.css';

import type { ColumnView, Needed } from '../../api/client';
import { Choose } from '../../parts/Field';

type Pairs = Record<string, string>;

/** The counterpart of each column: as chosen, else as proposed; null while one has none. */
export function paired(columns: Needed[], pairs: Pairs): Pairs | null {
  const now = columns.map((one) => [one.column, pairs[one.column] ?? one.found ?? ''] as const);
  return now.some(([, theirs]) => theirs === '') ? null : Object.fromEntries(now);
}

/** The columns that a report refers to, side by side with their counterparts in another source. */
export function ColumnPairs({
  columns,
  theirs,
  pairs,
  pair,
}: {
  columns: Needed[];
  theirs: ColumnView[];
  pairs: Pairs;
  pair: (pairs: Pairs) => void;
}) {
  return (
    <table className="over-columns">
      <tbody>
        {columns.map((one) => {
          const now = pairs[one.column] ?? one.found ?? '';
          return (
            <tr key={one.column}>
              <th scope="row">{one.column}</th>
              <td>
                <Choose
                  label={`stands for ${one.column}`}
                  value={now}
                  options={theirs.map((column) => [column.name, column.name])}
                  change={(name) => pair({ ...pairs, [one.column]: name })}
                />
              </td>
              <td className={one.sure ? 'quiet' : 'heed'}>
                {now === '' ? 'choose one' : pairs[one.column] ? '' : one.why || 'look at this one'}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
