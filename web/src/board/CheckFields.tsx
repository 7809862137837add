import './board.css';

import { Checkbox, FormControlLabel, IconButton } from '@mui/material';

import type { Cadence, Report } from '../api/client';
import { Choose, Written } from '../parts/Field';

type Accepted = NonNullable<Cadence['accept']>[number];
type Limit = NonNullable<Cadence['limits']>[number];

const LOOKED_AT: [Accepted, string][] = [
  ['source', 'a source that lacks some days'],
  ['empty', 'a source without any record of the period'],
  ['repeated', 'records that stand more than once'],
  ['not_placed', 'values that have no place in a tree'],
  ['refused', 'lines that were refused'],
  ['unmatched', 'records that find nothing in a look-up'],
  ['moved', 'an earlier edition that has moved'],
];

/** What is checked before an edition is issued automatically, and what is waived. */
export function CheckFields({
  report,
  cadence,
  change,
}: {
  report: Report;
  cadence: Cadence;
  change: (cadence: Cadence) => void;
}) {
  const accept = cadence.accept ?? [];
  const limits = cadence.limits ?? [];
  const set = (next: Limit[]) => change({ ...cadence, limits: next });
  const figures = report.figures.map((f): [string, string] => [f.name, f.name]);
  return (
    <div className="recurring-fields">
      <p className="quiet">
        Always checked: the sheet adds up to its source, expected totals agree. Stop at a total that moves
        further than this:
      </p>
      {limits.map((limit, i) => (
        <div className="limit" key={`${limit.figure} ${limit.against} ${i}`}>
          <Choose
            label="Figure"
            value={limit.figure}
            options={figures}
            change={(figure) => set(limits.map((l, k) => (k === i ? { ...l, figure } : l)))}
          />
          <Choose
            label="Against"
            value={limit.against}
            options={[
              ['period_before', 'the period before'],
              ['year_earlier', 'a year earlier'],
            ]}
            change={(against) =>
              set(limits.map((l, k) => (k === i ? { ...l, against: against as Limit['against'] } : l)))
            }
          />
          <Written
            label="Percent"
            type="number"
            value={String(limit.percent)}
            change={(text) =>
              set(limits.map((l, k) => (k === i ? { ...l, percent: Math.max(0, Number(text) || 0) } : l)))
            }
          />
          <IconButton aria-label="Remove the limit" onClick={() => set(limits.filter((_, k) => k !== i))}>
            ×
          </IconButton>
        </div>
      ))}
      <button
        className="linked"
        onClick={() =>
          set([...limits, { figure: report.figures[0]?.name ?? '', against: 'year_earlier', percent: 10 }])
        }
      >
        Add a limit
      </button>
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={cadence.four_eyes ?? false}
            onChange={(_, on) => change({ ...cadence, four_eyes: on })}
          />
        }
        label="four eyes: prepared by one account, approved by another"
      />
      <p className="quiet">Need not be looked at:</p>
      {LOOKED_AT.map(([kind, words]) => (
        <FormControlLabel
          key={kind}
          control={
            <Checkbox
              size="small"
              checked={accept.includes(kind)}
              onChange={(_, on) =>
                change({ ...cadence, accept: on ? [...accept, kind] : accept.filter((k) => k !== kind) })
              }
            />
          }
          label={words}
        />
      ))}
    </div>
  );
}
