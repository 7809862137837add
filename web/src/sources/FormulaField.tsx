import '../parts/chip.css';

import { TextField } from '@mui/material';
import { useRef, useState } from 'react';

import { quotedName } from '../parts/sql';

const FUNCTIONS = [
  'COALESCE(', 'NULLIF(', 'CASE WHEN ', 'ABS(', 'ROUND(', 'FLOOR(', 'CEIL(', 'MOD(', 'LEAST(', 'GREATEST(', 'UPPER(', 'LOWER(',
  'TRIM(', 'SUBSTRING(', 'POSITION(', 'CHAR_LENGTH(', 'REPLACE(', 'EXTRACT(YEAR FROM ', 'CAST(',
]; // prettier-ignore

/** The word that is being written at a place in a formula; an open double quote begins a name. */
function wordAt(text: string, place: number): string {
  return /"[^"]*$|[A-Za-z_][A-Za-z0-9_]*$/.exec(text.slice(0, place))?.[0] ?? '';
}

/** A formula with completion of column names and functions. */
export function FormulaField({
  columns,
  value,
  change,
}: {
  columns: string[];
  value: string;
  change: (value: string) => void;
}) {
  const input = useRef<HTMLTextAreaElement>(null);
  const [place, setPlace] = useState(0);
  const word = wordAt(value, place);
  const typed = word.replace('"', '').toLowerCase();
  const names = columns
    .filter((c) => typed && c.toLowerCase().startsWith(typed) && c !== word)
    .map(quotedName);
  const functions = FUNCTIONS.filter((f) => typed && f.toLowerCase().startsWith(typed));
  const offers = [...names, ...functions].slice(0, 6);
  const complete = (offer: string) => {
    const before = value.slice(0, place - word.length) + offer;
    change(before + value.slice(place));
    setPlace(before.length);
    requestAnimationFrame(() => {
      input.current?.focus();
      input.current?.setSelectionRange(before.length, before.length);
    });
  };
  return (
    <div>
      <TextField
        fullWidth
        multiline
        label="Formula"
        value={value}
        inputRef={input}
        helperText="an SQL expression over the columns, as gross - COALESCE(discount, 0)"
        onChange={(event) => {
          change(event.target.value);
          setPlace(event.target.selectionStart ?? event.target.value.length);
        }}
        onKeyDown={(event) => {
          const [first] = offers;
          if (event.key === 'Tab' && first) {
            event.preventDefault();
            complete(first);
          }
        }}
      />
      <div className="offers-row">
        {offers.map((offer, i) => (
          <button
            key={offer}
            className="chip"
            onClick={() => complete(offer)}
            title={i === 0 ? 'Tab' : undefined}
          >
            {offer}
          </button>
        ))}
      </div>
    </div>
  );
}
