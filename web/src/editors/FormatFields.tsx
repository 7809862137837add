import type { Figure } from '../api/client';
import { Choose, Written } from '../parts/Field';

const PLACES: [string, string][] = [
  ['', 'as in the data'],
  ...['0', '1', '2', '3', '4'].map((n): [string, string] => [n, n]),
];
const UNITS: [string, string][] = [
  ['one', 'as they are'],
  ['thousands', 'in thousands'],
  ['millions', 'in millions'],
];
const NEGATIVES: [string, string][] = [
  ['parentheses', 'in parentheses'],
  ['minus', 'with a minus'],
];
const ROUNDINGS: [string, string][] = [
  ['alone', 'each number to its nearest'],
  ['foots', 'so that lines add up to totals'],
];
const ZEROS: [string, string][] = [
  ['number', 'as a number'],
  ['dash', 'as a dash'],
];

/** How a figure is shown; its value does not change. */
export function FormatFields({ figure, change }: { figure: Figure; change: (figure: Figure) => void }) {
  const format = figure.format ?? {};
  const set = (next: object) => change({ ...figure, format: { ...format, ...next } });
  const places = format.places;
  return (
    <details>
      <summary style={{ cursor: 'pointer', fontSize: 13 }}>Number format</summary>
      <div style={{ display: 'grid', gap: 12, marginTop: 12 }}>
        <Choose
          label="Decimal places"
          value={places === null || places === undefined ? '' : String(places)}
          options={PLACES}
          change={(p) => set({ places: p === '' ? null : Number(p) })}
        />
        <Choose
          label="Numbers"
          value={format.unit ?? 'one'}
          options={UNITS}
          change={(unit) => set({ unit })}
        />
        <Choose
          label="Rounding"
          value={format.foots ? 'foots' : 'alone'}
          options={ROUNDINGS}
          change={(rounding) => set({ foots: rounding === 'foots' })}
        />
        <Choose
          label="Negatives"
          value={format.negative ?? 'parentheses'}
          options={NEGATIVES}
          change={(negative) => set({ negative })}
        />
        <Choose
          label="Zero"
          value={format.zero ?? 'number'}
          options={ZEROS}
          change={(zero) => set({ zero })}
        />
        <Written
          label="Currency"
          value={format.currency ?? ''}
          clear
          change={(currency) => set({ currency })}
        />
        <Choose
          label="On the sheet"
          value={figure.hide ? 'hidden' : 'shown'}
          options={[
            ['shown', 'shown'],
            ['hidden', 'worked out and hidden'],
          ]}
          change={(v) => change({ ...figure, hide: v === 'hidden' })}
        />
      </div>
    </details>
  );
}
