import { memo } from 'react';

import type { Report, SheetView } from '../../api/client';
import { count, counted, money } from '../../parts/words';
import { columnsOf } from '../../parts/sql';
import type { Questioned } from '../../sheet/questioned';
import { Controls } from '../../editors/Controls';

/** The tie-out: how many records of the source are on the sheet, and why the others are not. */
export const TieStrip = memo(function TieStrip({
  sheet,
  report,
  change,
  question,
}: {
  sheet: SheetView;
  report: Report;
  change: (report: Report) => void;
  question: (cell: Questioned) => void;
}) {
  const { tie_out: tie, as_of: asOf } = sheet;
  const total = tie.footings[0];
  return (
    <footer className="tie" aria-label="Tie-out">
      <span>
        <b>{count(tie.read - tie.by_hand)}</b> records in {tie.source}
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
          <span title={step.why}>
            <b>{count(step.records)}</b>{' '}
            {step.kind === 'only' ? `set aside by ${columnsOf(step.why)}` : step.why}
          </span>
        </span>
      ))}
      <span>
        <span className="arrow">→</span>
        <b>{count(tie.on_sheet)}</b> on the sheet
      </span>
      {tie.not_placed > 0 && <span className="warn">{counted(tie.not_placed, 'record')} not placed</span>}
      {tie.blank > 0 && <Blank sheet={sheet} question={question} />}
      {tie.refused > 0 && (
        <span className="warn">
          {counted(tie.refused, 'line')} refused at intake{tie.mended > 0 && `, ${tie.mended} corrected`}
        </span>
      )}
      {tie.empty > 0 && <span className="warn">{counted(tie.empty, 'line')} with separators alone</span>}
      {tie.controls.map((control) => (
        <span key={control.figure + control.expected} className={control.agrees ? 'warn agrees' : 'warn'}>
          {control.agrees
            ? `✓ ${control.figure} is the ${money(control.expected)} expected`
            : `${control.figure} is ${control.found ? money(control.found) : 'blank'}, and ${money(control.expected)} was expected`}
        </span>
      ))}
      <Controls
        report={report}
        asOf={asOf}
        change={change}
        words={
          total
            ? total.total
              ? `✓ ${total.figure} adds up to ${total.total}`
              : `${total.figure} has no values to add up`
            : 'check against a total'
        }
      />
    </footer>
  );
});

const BLANK = 3;

/** How many records are blank, in which level; a click explains their number. */
function Blank({ sheet, question }: { sheet: SheetView; question: (cell: Questioned) => void }) {
  const at = sheet.rows.special.indexOf(BLANK);
  const above = sheet.columns.find((column) => column.special === BLANK);
  const whole = sheet.columns.find((column) => column.depth === 0) ?? sheet.columns[0];
  const named = [
    ...sheet.rows.special.flatMap((one, k) =>
      one === BLANK ? [sheet.down[(sheet.rows.depth[k] ?? 0) - 1]?.name] : [],
    ),
    ...(above ? [sheet.across[above.depth - 1]?.name] : []),
  ];
  const words = `${counted(sheet.tie_out.blank, 'record')} blank`;
  const levels = [...new Set(named.filter(Boolean))].join(' or ');
  const figure = sheet.figures[0]?.name;
  const line = at >= 0 ? sheet.rows.line[at] : 0;
  const column = at >= 0 ? whole?.id : above?.id;
  if (!levels || figure === undefined || line === undefined || column === undefined)
    return <span className="warn">{words}</span>;
  return (
    <button className="warn link" onClick={() => question({ figure, line, column })}>
      {words} in {levels}
    </button>
  );
}
