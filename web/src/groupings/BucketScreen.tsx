import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';

import { post, type BucketLook, type Buckets, type GroupingView } from '../api/client';
import { Masthead } from '../app/Masthead';
import { FaultNote } from '../parts/Fault';
import { Written } from '../parts/Field';
import { count, day, listed, money } from '../parts/words';
import { Histogram } from './Histogram';
import { NewGrouping } from './NewGrouping';
import { ImpactNote, SaveButtons } from './SaveBar';
import { useDraft } from './useDraft';

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
  const look = useQuery({
    queryKey: ['look', 'buckets', JSON.stringify(draft.now)],
    queryFn: () => post<BucketLook>('/look/buckets', draft.now),
    placeholderData: (before) => before,
    retry: false,
  });
  const found = look.data;
  const set = (cut: number[]) => cut.length > 0 && draft.change({ ...draft.now, cut, labels: null });
  const cuts = found?.cuts ?? [];
  const unit = found?.over?.is_age ? ' days' : '';
  const held = (found?.ranges ?? []).reduce((sum, r) => sum + r.records, 0);
  return (
    <>
      <Masthead>
        <SaveButtons draft={draft} />
        {!draft.dirty && <NewGrouping />}
      </Masthead>
      <main className="groupings">
        {side}
        <section className="work cards">
          <FaultNote error={draft.error ?? look.error} />
          <div className="paper card" style={{ flex: 'none' }}>
            <h1 className="page-title">{draft.now.name}</h1>
            <p className="say">
              {found?.over && (
                <>
                  For{' '}
                  <b>
                    {found.over.source} · {found.over.column}
                  </b>
                  {found.over.is_age && `, counted to ${day(found.over.as_of)}`}
                </>
              )}
              {view.used_by.length > 0 && ` · used by ${listed(view.used_by)}`}
            </p>
            <p className="sentence rust">
              Cut at {listed(cuts.map((c) => count(c)))}
              {unit}.
            </p>
            {found && (
              <Histogram look={found} move={(at, to) => set(cuts.map((c, i) => (i === at ? to : c)))} />
            )}
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
              <Ready found={found} set={set} />
            </div>
            <ImpactNote draft={draft} view={view} />
          </div>
        </section>
      </main>
      <footer className="tie">
        <span>
          <b>{count(held)}</b> records in {count(found?.ranges.length ?? 0)} ranges
          {found && found.blank > 0 && (
            <>
              <span className="arrow">·</span>
              <b>{count(found.blank)}</b> of them blank
            </>
          )}
        </span>
        {found && found.bins.length > 0 && (
          <span className="ok">
            lowest {count(tidy(found.low))}
            {unit}, highest {count(tidy(found.high))}
            {unit}
          </span>
        )}
      </footer>
    </>
  );
}

/** Sets that are ready to use. */
function Ready({ found, set }: { found: BucketLook | undefined; set: (cuts: number[]) => void }) {
  const sets: [string, number[]][] = [
    ['30/60/90/120', [0, 30, 60, 90, 120]],
    ['1–7/8–30', [0, 7, 30]],
  ];
  const quarters = [...new Set((found?.quantiles ?? []).map(tidy))];
  if (quarters.length > 1) sets.push(['quarters of the records', quarters]);
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
    </div>
  );
}
