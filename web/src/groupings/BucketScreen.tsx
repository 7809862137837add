import './groupings.css';
import '../parts/chip.css';

import type { ReactNode } from 'react';

import { post, type BucketLook, type Buckets, type GroupingView } from '../api/client';
import { Written } from '../parts/Field';
import { count, day, listed, money } from '../parts/words';
import { CardFrame } from './CardFrame';
import { Histogram } from './Histogram';
import { useDraft } from './useDraft';
import { useLook } from './useLook';

/** Numbers as they are written in a list of cuts, rising and each once. */
function readCuts(text: string): number[] {
  const numbers = text
    .split(/[,;\s]+/)
    .filter(Boolean)
    .map(Number)
    .filter(Number.isFinite);
  return [...new Set(numbers)].sort((a, b) => a - b);
}

const tidy = (n: number) => Number(n.toPrecision(3));

/** A bucket set as a sentence over the histogram of the data; cuts are dragged or typed. */
export function BucketScreen({ view, side }: { view: GroupingView; side: ReactNode }) {
  const draft = useDraft<Buckets>(view);
  const { found, asked, busy, error } = useLook('buckets', draft.now, (now) => post('/look/buckets', now));
  const set = (cut: number[]) => cut.length > 0 && draft.change({ ...draft.now, cut, labels: null });
  const cuts = found?.cuts ?? [];
  const unit = found?.over?.is_age ? ' days' : '';
  const held = (found?.ranges ?? []).reduce((sum, r) => sum + r.records, 0);
  const parts = 'quantiles' in asked.cut ? asked.cut.quantiles : null;
  const words = `${listed(cuts.map((c) => count(c)))}${unit}`;
  return (
    <CardFrame
      view={view}
      draft={draft}
      error={error}
      busy={busy}
      side={side}
      about={
        <>
          {found?.over && (
            <>
              For{' '}
              <b>
                {found.over.specimen ? `some records of ${found.over.source}` : found.over.source} ·{' '}
                {found.over.column}
              </b>
              {found.over.is_age && `, counted to ${day(found.over.as_of)}`}
            </>
          )}
          {view.used_by.length > 0 && ` · used by ${listed(view.used_by)}`}
        </>
      }
      tie={
        <>
          {found && (
            <span>
              <b>{count(held)}</b> records in {count(found.ranges.length)} ranges
              {found.blank > 0 && (
                <>
                  <span className="arrow">·</span>
                  <b>{count(found.blank)}</b> of them blank
                </>
              )}
            </span>
          )}
          {found && found.bins.length > 0 && (
            <span className="ok">
              lowest {count(tidy(found.low))}
              {unit}, highest {count(tidy(found.high))}
              {unit}
            </span>
          )}
        </>
      }
    >
      {found && (
        <p className="sentence rust">
          {parts
            ? `Cut into ${parts} parts of about as many records each, now at ${words}.`
            : `Cut at ${words}.`}
        </p>
      )}
      {found && <Histogram look={found} move={(at, to) => set(cuts.map((c, i) => (i === at ? to : c)))} />}
      <div className="ranges" aria-label="Ranges">
        {found?.ranges.map((range) => (
          <div key={range.label}>
            <b>{range.label}</b>
            {count(range.records)}
            {range.amount && ` · ${money(range.amount)}`}
          </div>
        ))}
      </div>
      <div style={{ display: 'flex', alignItems: 'flex-start', gap: 12, marginTop: 16 }}>
        <Written
          label="Cuts"
          value={cuts.join(', ')}
          change={(text) => set(readCuts(text))}
          help="rising numbers with commas between"
        />
        <Ready
          found={found}
          set={set}
          parted={(quantiles) => draft.change({ ...draft.now, cut: { quantiles }, labels: null })}
        />
      </div>
    </CardFrame>
  );
}

/** Sets that are ready to use. */
function Ready({
  found,
  set,
  parted,
}: {
  found: BucketLook | undefined;
  set: (cuts: number[]) => void;
  parted: (quantiles: number) => void;
}) {
  const sets: [string, number[]][] = [
    ['30/60/90/120', [0, 30, 60, 90, 120]],
    ['1–7/8–30', [0, 7, 30]],
  ];
  if (found && found.high > found.low) {
    const quarter = (found.high - found.low) / 4;
    sets.push(['quarters of the range', [...new Set([1, 2, 3].map((n) => tidy(found.low + n * quarter)))]]);
  }
  return (
    <div className="offers-row">
      {sets.map(([name, cuts]) => (
        <button key={name} className="chip" style={{ whiteSpace: 'nowrap' }} onClick={() => set(cuts)}>
          {name}
        </button>
      ))}
      {[4, 5, 10].map((n) => (
        <button key={n} className="chip" style={{ whiteSpace: 'nowrap' }} onClick={() => parted(n)}>
          {n} equal-count groups
        </button>
      ))}
    </div>
  );
}
