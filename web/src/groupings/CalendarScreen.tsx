import type { ReactNode } from 'react';

import { post, type Calendar, type GroupingView } from '../api/client';
import { GhostLink } from '../parts/Masthead';
import { count, counted, listed } from '../parts/words';
import { CalendarNames } from './CalendarNames';
import { MonthSentence, WeekSentence } from './CalendarSentences';
import { CalendarTable } from './CalendarTable';
import { Year, Years } from './CalendarYear';
import { CardFrame } from './CardFrame';
import { useDraft } from './useDraft';
import { useLook } from './useLook';

/** A calendar as a sentence, beside a year to scale and the years that the data cover. */
export function CalendarScreen({ view, side }: { view: GroupingView; side: ReactNode }) {
  const draft = useDraft<Calendar>(view);
  const { found, asked, busy, error } = useLook('calendar', draft.now, (now) => post('/look/calendar', now));
  const { now, change } = draft;
  return (
    <CardFrame
      view={view}
      draft={draft}
      error={error}
      busy={busy}
      side={side}
      about={view.used_by.length ? `Used by ${listed(view.used_by)}` : 'Used by no report yet'}
      actions={now.table && <GhostLink href={`/api/groupings/${view.id}/file`}>Write to a file</GhostLink>}
      tie={
        <>
          {found?.over && (
            <span>
              beside <b>{found.over.specimen ? `some records of ${found.over.source}` : found.over.source}</b>{' '}
              · {found.over.column}
              <span className="arrow">→</span>
              <b>{count(found.years.reduce((sum, y) => sum + y.records, 0))}</b> records in{' '}
              {counted(found.years.length, 'year')}
            </span>
          )}
          <span className="ok">{draft.dirty ? 'not saved yet' : `saved · revision ${view.revision}`}</span>
        </>
      }
    >
      {now.months && <MonthSentence calendar={now} change={change} />}
      {now.weeks && <WeekSentence calendar={now} change={change} />}
      {now.table && <CalendarTable table={now.table} change={(table) => change({ ...now, table })} />}
      {found && <Year look={found} byTable={Boolean(asked.table)} />}
      {found && <Years look={found} />}
      <CalendarNames calendar={now} look={found} change={change} />
    </CardFrame>
  );
}
