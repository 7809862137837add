import './editions.css';
import '../parts/masthead.css';

import { useState } from 'react';
import { useParams, useSearchParams } from 'react-router';

import type { EditionView } from '../api/client';
import { GhostButton, Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { count } from '../parts/words';
import { columnsOf } from '../parts/sql';
import type { Questioned } from '../sheet/questioned';
import { TrailMargin } from '../margin/TrailMargin';
import { EditionFile } from './EditionFile';
import { EditionHead } from './EditionHead';
import { EditionSheet } from './EditionSheet';
import { LinkDialog } from './LinkDialog';
import { movedKey } from '../sheet/marking';
import { MovedMargin } from './MovedMargin';
import { SendDialog } from './SendDialog';
import { useEdition, useEditionSheet, useMarked, useMoved, type Against } from './useEdition';
import { writeIn } from '../parts/notation';

/** An edition as issued: it can be read, explained, exported and compared, but never changed. */
export function EditionScreen() {
  const id = Number(useParams().id);
  return <OneEdition key={id} id={id} />;
}

function OneEdition({ id }: { id: number }) {
  const base = `/editions/${id}` as const;
  const found = useEdition(base);
  const own = useEditionSheet(base);
  const [asked, setAsked] = useSearchParams();
  const told = asked.get('against');
  const against: Against = told === null ? byItself(found.data) : told === 'now' ? 'now' : Number(told);
  const moved = useMoved(base, against);
  const [sheet, marks] = useMarked(own.data, moved.data);
  const [cell, setCell] = useState<Questioned | null>(null);
  const [doing, setDoing] = useState<'link' | 'send' | null>(null);
  const edition = found.data;
  writeIn(edition?.notation);
  const isMoved = cell && sheet && marks.has(keyOf(sheet, cell));
  return (
    <>
      <Masthead title={edition ? `${edition.edition.title}, ${edition.edition.label}` : ''}>
        <span className="asof">read only</span>
        <GhostButton disabled={!edition} onClick={() => setDoing('link')}>
          Share
        </GhostButton>
        <GhostButton disabled={!edition} onClick={() => setDoing('send')}>
          Send
        </GhostButton>
        <EditionFile base={base} />
      </Masthead>
      <div className="edition-page">
        <main>
          <FaultNote error={found.error ?? own.error} />
          {edition && sheet && (
            <EditionSheet
              base={base}
              sheet={sheet}
              layout={edition.layout}
              moved={marks}
              question={setCell}
              head={<EditionHead found={edition} />}
            />
          )}
        </main>
        {cell && sheet && !isMoved ? (
          <TrailMargin base={base} sheet={sheet} cell={cell} close={() => setCell(null)} />
        ) : (
          edition && (
            <MovedMargin
              base={base}
              found={edition}
              moved={moved.data}
              error={moved.error}
              against={against}
              hold={(next) => {
                setCell(null);
                setAsked({ against: String(next) }, { replace: true });
              }}
              cell={cell}
              choose={setCell}
            />
          )
        )}
      </div>
      <Foot edition={edition} sheet={sheet} />
      {doing === 'link' && edition && <LinkDialog edition={edition.edition} close={() => setDoing(null)} />}
      {doing === 'send' && edition && <SendDialog edition={edition.edition} close={() => setDoing(null)} />}
    </>
  );
}

/**
 * The default comparison of an edition: with the previous one of its period, else with the current data if these
 * differ.
 */
function byItself(found: EditionView | undefined): Against {
  if (!found) return null;
  const before = found.versions.filter((one) => one.number < found.edition.number).pop();
  return before ? before.id : found.edition.moved ? 'now' : null;
}

const keyOf = (sheet: NonNullable<ReturnType<typeof useMarked>[0]>, cell: Questioned) => {
  const column = sheet.columns.findIndex((one) => one.id === cell.column);
  const figure = sheet.figures.findIndex((one) => one.name === cell.figure);
  return movedKey(cell.line, column * sheet.figures.length + figure);
};

/** The tie-out, the total, and the digest. */
export function Foot({
  edition,
  sheet,
}: {
  edition: EditionView | undefined;
  sheet: ReturnType<typeof useMarked>[0];
}) {
  if (!edition || !sheet) return <footer className="tie" />;
  const tie = sheet.tie_out;
  const total = tie.footings[0];
  const seal = edition.edition.sha256;
  return (
    <footer className="tie" aria-label="Tie-out">
      <span>
        <b>{count(tie.read - tie.by_hand)}</b> records read
      </span>
      {tie.by_hand > 0 && (
        <span>
          <span className="arrow">+</span>
          <b>{count(tie.by_hand)}</b> entered by hand
        </span>
      )}
      {tie.steps.map((step) => (
        <span key={step.why}>
          <span className="arrow">→</span>
          <b>{count(step.records)}</b>{' '}
          {step.kind === 'only' ? `set aside by ${columnsOf(step.why)}` : step.why}
        </span>
      ))}
      <span>
        <span className="arrow">→</span>
        <b>{count(tie.on_sheet)}</b> on the sheet
      </span>
      <span className="ok" title={`SHA-256 ${seal}`}>
        {total && `${total.total ? `✓ adds up to ${total.total}` : 'no values to add up'} · `}sealed{' '}
        {seal.slice(0, 4)}…{seal.slice(-4)}
      </span>
    </footer>
  );
}
