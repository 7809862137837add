import '../../sheet/sheet.css';
import './phone.css';

import { useState } from 'react';
import { Link } from 'react-router';

import type { EditionView, SheetView } from '../../api/client';
import type { EditionPlace } from '../../api/paths';
import { Chart } from '../../chart/Chart';
import { TrailMargin } from '../../margin/TrailMargin';
import { useEscape } from '../../parts/useEscape';
import { day, inFull } from '../../parts/words';
import { outline } from '../../sheet/outline';
import type { Questioned } from '../../sheet/questioned';
import { usePrinted } from '../../sheet/usePrinted';
import { FileMenu } from '../EditionFile';
import { first, periods } from './periods';
import { PhoneSheet } from './PhoneSheet';

const NONE: ReadonlySet<string> = new Set();

interface Props {
  base: EditionPlace;
  edition: EditionView;
  sheet: SheetView;
  /** Where the other editions are listed, if there are any. */
  others: string | null;
}

/** An edition on a phone: its headline and the latest period first, explanations in a sheet from below. */
export function PhoneReading({ base, edition, sheet, others }: Props) {
  const [cell, setCell] = useState<Questioned | null>(null);
  const [charted, setCharted] = useState(false);
  const [shown, setShown] = useState(() => first(sheet, periods(sheet)));
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  usePrinted(base);
  useEscape(() => setCell(null), cell !== null);
  const { edition: own } = edition;
  return (
    <>
      <main className={`phone-page${cell ? ' questioned' : ''}`}>
        <p className="phone-stamp">
          <b>{inFull(own.label)}</b> issued {day(own.issued_at)} · as of {day(edition.as_of)}
          {sheet.scale && <span className="scaled"> · {sheet.scale}</span>}
        </p>
        <h1>{own.title}</h1>
        {edition.short && (
          <p className="phone-lead" title={edition.headline.join(' ')}>
            {edition.short}
          </p>
        )}
        {charted ? (
          <div className="phone-chart paper">
            <Chart
              base={base}
              sheet={sheet}
              rows={outline(sheet, { depth: 1, byHand: {} })}
              chosen={NONE}
              title={sheet.title}
              width={Math.min(560, window.innerWidth - 60)}
            />
          </div>
        ) : (
          <PhoneSheet
            base={base}
            sheet={sheet}
            shown={shown}
            show={setShown}
            cell={cell}
            question={edition.trail === 'none' ? null : setCell}
          />
        )}
        {sheet.footnotes.map((note) => (
          <p className="phone-note" key={note.text}>
            {note.text}
          </p>
        ))}
        {sheet.notes.map((note) => (
          <p className="phone-note" key={note}>
            {note}
          </p>
        ))}
      </main>
      {cell && (
        <div className="phone-trail">
          <TrailMargin base={base} sheet={sheet} cell={cell} close={() => setCell(null)} />
        </div>
      )}
      <nav className="phone-foot" aria-label="Edition">
        <button aria-pressed={!charted} onClick={() => setCharted(false)}>
          Sheet
        </button>
        <button aria-pressed={charted} onClick={() => setCharted(true)}>
          Chart
        </button>
        {others && <Link to={others}>Editions</Link>}
        <button aria-haspopup="menu" onClick={(event) => setMenu(event.currentTarget)}>
          Export
        </button>
      </nav>
      <FileMenu base={base} at={menu} close={() => setMenu(null)} />
    </>
  );
}
