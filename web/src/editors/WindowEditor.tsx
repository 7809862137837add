import { Checkbox, FormControlLabel } from '@mui/material';

import type { ColumnView, Window } from '../api/client';
import { useGroupings } from '../api/queries';
import { Choose, Written } from '../parts/Field';

const GRAINS: [string, string][] = ['year', 'half', 'quarter', 'month', 'week', 'day'].map((g) => [g, g]);
type Show = Window['show'];
type Form = 'last' | 'this' | 'to_date' | 'previous' | 'from';

const formOf = (show: Show): Form =>
  show.last ? 'last' : show.this ? 'this' : show.to_date ? 'to_date' : show.previous ? 'previous' : 'from';
const grainOf = (show: Show) => show.grain ?? show.this ?? show.to_date ?? show.previous ?? 'year';

function shown(form: Form, grain: string, last: number): Show {
  const g = grain as NonNullable<Show['grain']>;
  if (form === 'last') return { last, grain: g };
  if (form === 'this') return { this: g };
  if (form === 'to_date') return { to_date: g };
  if (form === 'previous') return { previous: g };
  return { from: '2026-01-01', to: '2026-12-31' };
}

/** Which periods the sheet shows. */
export function WindowEditor({
  window,
  columns,
  change,
}: {
  window: Window;
  columns: ColumnView[];
  change: (window: Window) => void;
}) {
  const calendars = (useGroupings().data ?? []).filter((g) => g.kind === 'calendar');
  const { show } = window;
  const form = formOf(show);
  const set = (next: Show) => change({ ...window, show: next });
  return (
    <>
      <Choose
        label="Of"
        value={window.of}
        options={columns.filter((c) => c.role === 'period').map((c) => [c.name, c.name])}
        change={(of) => change({ ...window, of })}
      />
      <Choose
        label="Calendar"
        value={window.calendar ?? ''}
        options={[['', 'Civil year'], ...calendars.map((c): [string, string] => [c.name, c.name])]}
        change={(c) => change({ ...window, calendar: c || null })}
      />
      <Choose
        label="Show"
        value={form}
        options={[
          ['last', 'the last few'],
          ['this', 'this one'],
          ['to_date', 'this one, to date'],
          ['previous', 'the whole one before'],
          ['from', 'from a day to a day'],
        ]}
        change={(f) =>
          change({
            ...window,
            show: shown(f as Form, grainOf(show), show.last ?? 2),
            each_to_date: f !== 'from' && (window.each_to_date ?? false),
          })
        }
      />
      {form === 'from' ? (
        <>
          <Written
            label="From"
            type="date"
            value={show.from ?? ''}
            clear
            help="left out: from the first record on"
            change={(from) => (from || show.to) && set({ ...show, from: from || null })}
          />
          <Written
            label="To"
            type="date"
            value={show.to ?? ''}
            clear
            help="left out: up to the as-of date"
            change={(to) => (to || show.from) && set({ ...show, to: to || null })}
          />
        </>
      ) : (
        <Choose
          label="Period"
          value={grainOf(show)}
          options={GRAINS}
          change={(g) => set(shown(form, g, show.last ?? 2))}
        />
      )}
      {form === 'last' && (
        <Written
          label="How many"
          type="number"
          value={String(show.last ?? 1)}
          change={(n) => set(shown('last', grainOf(show), Math.max(1, Number(n) || 1)))}
        />
      )}
      {form !== 'from' && (
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={window.each_to_date ?? false}
              onChange={(e) => change({ ...window, each_to_date: e.target.checked })}
            />
          }
          label="Cut every period at the same place"
        />
      )}
    </>
  );
}
