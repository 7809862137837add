import '../parts/masthead.css';

import { useRef } from 'react';

import { day } from '../parts/words';

/** The as-of date, in words; a click opens the calendar to choose another. */
export function AsOf({ value, change }: { value: string; change: (value: string) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <span className="asof">
      as of{' '}
      <button onClick={() => input.current?.showPicker()} title="choose another day">
        {day(value)}
      </button>
      <input
        ref={input}
        type="date"
        aria-label="As of"
        tabIndex={-1}
        value={value}
        onChange={(event) => event.target.value && change(event.target.value)}
      />
    </span>
  );
}
