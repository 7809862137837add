import { Checkbox, FormControlLabel } from '@mui/material';

import type { WaitingView } from '../api/client';
import { Choose } from '../parts/Field';
import { count, counted, listed } from '../parts/words';
import type { BringingIn } from './useBringingIn';

const JOINS: [string, string][] = [
  ['add', 'add to what is there'],
  ['replace_dates', 'replace the dates it covers'],
  ['update', 'replace records with the same key'],
  ['replace_all', 'replace everything'],
];
type Join = 'add' | 'replace_all' | 'replace_dates' | 'update';

/** How a file joins what is there, and what that would do. */
export function Joining({ way, waiting }: { way: BringingIn; waiting: WaitingView }) {
  const { outcome } = waiting;
  const names = waiting.columns.map((c) => c.name);
  return (
    <>
      <Choose
        label="How it joins"
        value={waiting.join}
        options={JOINS}
        change={(join) =>
          way.readAgain({
            join: join as Join,
            ...(join === 'update'
              ? {
                  join_by: waiting.join_by
                    .slice(0, 1)
                    .concat(waiting.join_by.length ? [] : names.slice(0, 1)),
                }
              : {}),
          })
        }
      />
      {waiting.join === 'update' && (
        <Choose
          label="By the key column"
          value={waiting.join_by[0] ?? ''}
          options={names.map((n) => [n, n])}
          change={(name) => way.readAgain({ join_by: [name] })}
        />
      )}
      <div>
        {count(outcome.here)} already here, {count(outcome.replaced)} replaced.
      </div>
      {outcome.added.length > 0 && (
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={waiting.take_added}
              onChange={(e) => way.readAgain({ take_added: e.target.checked })}
            />
          }
          label={`Take in the new ${outcome.added.length === 1 ? 'column' : 'columns'} ${listed(outcome.added)}`}
        />
      )}
      {outcome.unplaced.map((words) => (
        <div key={words} className="heed">
          {words}.
        </div>
      ))}
      {outcome.here > 0 && outcome.replaced === 0 && (
        <div className="heed">
          {counted(outcome.here, 'record')} would be counted twice. Replace the dates instead?
        </div>
      )}
    </>
  );
}
