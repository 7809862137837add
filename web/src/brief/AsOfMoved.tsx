import './say.css';

import { day } from '../parts/words';
import { useAsOfMoved } from './useAsOfMoved';

/** Says that the as-of date of a report moved by itself, and lets it be put back. */
export function AsOfMoved({
  id,
  now,
  given,
  change,
}: {
  id: number;
  now: string;
  given: boolean;
  change: (asOf: string) => void;
}) {
  const { from, seen } = useAsOfMoved(id, now, given);
  if (from === null) return null;
  return (
    <p className="as-read" role="status">
      The as-of date moved by itself from {day(from)} to {day(now)}.{' '}
      <button className="link" onClick={seen}>
        All right
      </button>{' '}
      <button className="link" onClick={() => change(from)}>
        Stay at {day(from)}
      </button>
    </p>
  );
}
