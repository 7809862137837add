import './report.css';

import { useEffect, useMemo, useState } from 'react';
import { useParams } from 'react-router';

import type { Report, SheetView } from '../api/client';
import { useSheet, useSources } from '../api/queries';
import { GhostButton, Masthead } from '../app/Masthead';
import { FaultNote } from '../parts/Fault';
import { isTyping } from '../parts/keys';
import { AsOf } from './brief/AsOf';
import { Brief } from './brief/Brief';
import { DepthBar } from './sheet/DepthBar';
import { Gather } from './sheet/Gather';
import { PeriodSteps } from './sheet/PeriodSteps';
import { outline, type Openness, type Row } from './sheet/outline';
import { SheetTable } from './sheet/SheetTable';
import { TakeAway } from './sheet/TakeAway';
import { TieStrip } from './sheet/TieStrip';
import { TitleField } from './brief/TitleField';
import { Conflict } from './Conflict';
import { useReportEditing } from './useReportEditing';

/** A report: the brief on top, the sheet under it, the tie-out at the foot. */
export function ReportScreen() {
  const id = Number(useParams().id);
  return <OneReport key={id} id={id} />;
}

function OneReport({ id }: { id: number }) {
  const editing = useReportEditing(id);
  const found = useSheet(id, editing.view?.revision);
  const sheet = useLast(found.data);
  const report = editing.shown;
  const source = useSources().data?.find((s) => s.name.toLowerCase() === report?.source.toLowerCase());
  const fault = editing.error ?? found.error;
  return (
    <>
      <Masthead>
        {sheet && report && (
          <AsOf value={sheet.as_of} change={(as_of) => editing.change({ ...report, as_of })} />
        )}
        <GhostButton disabled={!editing.view?.can_undo} onClick={editing.undo} title="Ctrl Z">
          Undo
        </GhostButton>
        <GhostButton disabled={!editing.view?.can_redo} onClick={editing.redo} title="Ctrl Shift Z">
          Redo
        </GhostButton>
        <TakeAway id={id} />
      </Masthead>
      <main className="report">
        {report && <Brief report={report} source={source?.id} sheet={sheet} change={editing.change} />}
        <FaultNote error={fault} />
        {editing.waits && <NotSaved why={editing.waits} again={editing.again} />}
        {editing.conflict && <Conflict {...editing.conflict} settle={editing.settle} />}
        {report && sheet && (
          <SheetPaper
            id={id}
            report={report}
            sheet={sheet}
            stale={Boolean(found.error)}
            change={editing.change}
          />
        )}
      </main>
      {sheet && report ? (
        <TieStrip tie={sheet.tie_out} report={report} change={editing.change} />
      ) : (
        <footer className="tie" />
      )}
    </>
  );
}

/** Edits that wait for the server to answer; they are sent again by themselves. */
const NotSaved = ({ why, again }: { why: string; again: () => void }) => (
  <div className="not-saved" role="status">
    Not saved yet: {why}. Your changes are held here and sent again by themselves; the sheet below is from
    before them.{' '}
    <button className="link" onClick={again}>
      Try now
    </button>
  </div>
);

/** The latest value that was there, so that a fault does not take the sheet away. */
function useLast<T>(value: T | undefined): T | undefined {
  const [last, setLast] = useState(value);
  if (value !== undefined && value !== last) setLast(value);
  return value ?? last;
}

function SheetPaper({
  id,
  report,
  sheet,
  stale,
  change,
}: {
  id: number;
  report: Report;
  sheet: SheetView;
  stale: boolean;
  change: (report: Report) => void;
}) {
  const [open, setOpen] = useOpenness(id, sheet.down.length);
  const rows = useMemo(() => outline(sheet, open), [sheet, open]);
  const [chosen, setChosen] = useState<Row[]>([]);
  const choose = (row: Row, more: boolean) => {
    const has = chosen.some((c) => c.path === row.path);
    setChosen(
      has
        ? chosen.filter((c) => c.path !== row.path)
        : more && chosen[0]?.entry === row.entry
          ? [...chosen, row]
          : [row],
    );
  };
  const toggle = (row: Row) => setOpen({ ...open, byHand: { ...open.byHand, [row.path]: !row.open } });
  const to = (depth: number) => setOpen({ depth, byHand: {} });
  return (
    <section className={`paper sheet-paper${stale ? ' stale' : ''}`} aria-busy={stale}>
      <div className="sheet-head">
        <div style={{ flex: 1, minWidth: 0 }}>
          <TitleField title={report.title} change={(title) => change({ ...report, title })} />
          <p>{subtitle(report, sheet)}</p>
        </div>
        <PeriodSteps report={report} change={change} />
        <DepthBar sheet={sheet} depth={Math.min(open.depth, sheet.down.length)} open={to} />
      </div>
      {sheet.tie_out.on_sheet === 0 && sheet.tie_out.read > 0 && (
        <p className="say" style={{ padding: '0 24px' }}>
          No record is left by these conditions. The strip below says where they went.
        </p>
      )}
      <SheetTable report={id} sheet={sheet} rows={rows} toggle={toggle} chosen={chosen} choose={choose} />
      {chosen.length > 0 && (
        <Gather
          report={report}
          level={sheet.down[(chosen[0]?.depth ?? 0) - 1]?.name}
          chosen={chosen}
          change={change}
          done={() => setChosen([])}
        />
      )}
    </section>
  );
}

function subtitle(report: Report, sheet: SheetView): string {
  const calendars = [...(report.down ?? []), ...(report.across ?? [])].map((e) =>
    'period' in e ? e.calendar : null,
  );
  const named = [...new Set(calendars.filter((c): c is string => Boolean(c)))];
  return [report.source, ...named, ...sheet.notes].join(' · ');
}

/** Which groups are open, kept by report in this browser; the number keys open to a level. */
function useOpenness(id: number, levels: number): [Openness, (open: Openness) => void] {
  const key = `kalendor.open.${id}`;
  const [open, setOpen] = useState<Openness>(() => {
    try {
      return JSON.parse(localStorage.getItem(key) ?? '') as Openness;
    } catch {
      return { depth: 9, byHand: {} };
    }
  });
  useEffect(() => localStorage.setItem(key, JSON.stringify(open)), [key, open]);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey || !/^[0-9]$/.test(event.key))
        return;
      setOpen({ depth: Math.min(Number(event.key), levels), byHand: {} });
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [levels]);
  return [open, setOpen];
}
