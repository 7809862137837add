import './editions.css';
import '../parts/list.css';
import '../parts/masthead.css';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';

import { AccountMenu } from '../parts/AccountMenu';
import { get, type EditionLine, type ReaderView } from '../api/client';
import { useTitle } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { counted, day } from '../parts/words';
import type { Questioned } from '../sheet/questioned';
import { TrailMargin } from '../margin/TrailMargin';
import { EditionFile } from './EditionFile';
import { EditionHead } from './EditionHead';
import { EditionLines } from './EditionList';
import { Foot } from './EditionScreen';
import { EditionSheet } from './EditionSheet';
import { PhoneReading } from './phone/PhoneReading';
import { useNarrow } from './phone/useNarrow';
import { useEdition, useEditionSheet, useMarked, useMoved } from './useEdition';
import { writeIn } from '../parts/notation';

/** The read-only screen of a link: an edition, or the editions of a report. */
export function ReaderScreen() {
  const { secret, id } = useParams();
  const at: Where = secret ? { api: `/read/${secret}`, page: `/read/${secret}` } : ISSUED;
  const found = useQuery({
    queryKey: ['read', at.api],
    queryFn: () => get(at.api),
    retry: false,
  });
  const opens = found.data;
  const only = opens?.editions.length === 1 ? opens.editions[0]?.id : undefined;
  const shown = id ? Number(id) : only;
  if (opens && shown !== undefined)
    return <Reading key={shown} opens={opens} at={at} id={shown} many={opens.editions.length > 1} />;
  return (
    <>
      <ReaderMast opens={opens} />
      <main className="list-page">
        <FaultNote error={found.error} />
        {opens && (
          <>
            <h1 className="page-title">{opens.title}</h1>
            <p className="say">{counted(opens.editions.length, 'edition')}</p>
            {[...new Set(opens.editions.map((one) => one.report))].map((report) => (
              <ReportsEditions
                key={report}
                editions={opens.editions.filter((one) => one.report === report)}
                named={at === ISSUED}
                page={at.page}
              />
            ))}
          </>
        )}
      </main>
      <footer className="tie" />
    </>
  );
}

/** The API address and the page address: of a link, or of everyone with an account. */
interface Where {
  api: '/published' | `/read/${string}`;
  page: string;
}
const ISSUED: Where = { api: '/published', page: '/issued' };

/** A report's editions, the latest first. */
function ReportsEditions({
  editions,
  named,
  page,
}: {
  editions: EditionLine[];
  named: boolean;
  page: string;
}) {
  const lines = [...editions].sort((a, b) => b.last_day.localeCompare(a.last_day) || b.number - a.number);
  return (
    <>
      {named && <h2 className="issued-title">{lines[0]?.title}</h2>}
      <EditionLines lines={lines} to={(one) => `${page}/editions/${one.id}`} />
    </>
  );
}

function ReaderMast({ opens, children }: { opens: ReaderView | undefined; children?: React.ReactNode }) {
  useTitle(opens?.title ?? '');
  return (
    <header className="mast reader-mast">
      <span className="word">{opens?.workspace || 'Kalendor'}</span>
      <span className="whose">{opens?.title}</span>
      <span className="grow" />
      <div className="actions">{children}</div>
      <AccountMenu />
    </header>
  );
}

function Reading({ opens, at, id, many }: { opens: ReaderView; at: Where; id: number; many: boolean }) {
  const base = `${at.api}/editions/${id}` as const;
  const found = useEdition(base);
  const own = useEditionSheet(base, opens.editions.find((one) => one.id === id)?.sha256);
  const before = found.data?.versions.filter((one) => one.number < (found.data?.edition.number ?? 0)).pop();
  const [marked, setMarked] = useState(false);
  const moved = useMoved(base, marked && before ? before.id : null);
  const [sheet, marks] = useMarked(own.data, marked ? moved.data : undefined);
  const [cell, setCell] = useState<Questioned | null>(null);
  const edition = found.data;
  writeIn(edition?.notation);
  const trail = edition?.trail !== 'none';
  const narrow = useNarrow();
  if (narrow && edition && sheet)
    return (
      <>
        <ReaderMast opens={opens}>
          <span className="asof">read only</span>
        </ReaderMast>
        <PhoneReading base={base} edition={edition} sheet={sheet} others={many ? at.page : null} />
      </>
    );
  return (
    <>
      <ReaderMast opens={opens}>
        {many && (
          <Link className="asof" to={at.page}>
            all editions
          </Link>
        )}
        <span className="asof">read only</span>
        <EditionFile base={base} />
      </ReaderMast>
      <div className={`edition-page${cell && trail ? '' : ' alone'}`}>
        <main>
          <FaultNote error={found.error ?? own.error} />
          {edition && sheet && (
            <EditionSheet
              base={base}
              sheet={sheet}
              layout={edition.layout}
              moved={marks}
              question={trail ? setCell : null}
              head={
                <>
                  <EditionHead found={edition} />
                  {before && (
                    <p className="edition-head quiet" style={{ paddingTop: 0, margin: 0 }}>
                      This edition replaces that of {day(before.issued_at)}.{' '}
                      <button className="link" onClick={() => setMarked(!marked)}>
                        {marked ? 'Hide what moved' : 'Show what moved'}
                      </button>
                    </p>
                  )}
                </>
              }
            />
          )}
        </main>
        {cell && sheet && trail && (
          <TrailMargin base={base} sheet={sheet} cell={cell} close={() => setCell(null)} />
        )}
      </div>
      <Foot edition={edition} sheet={sheet} />
    </>
  );
}
