import '../../parts/tools.css';
import '../report.css';
import '../../sheet/beneath.css';
import '../../sheet/sheet.css';

import { memo, useCallback, useMemo, useRef, useState } from 'react';

import {
  post,
  type Gathering,
  type Narrowing,
  type OtherSource,
  type Renaming,
  type Report,
  type SheetView,
  type Ungrouping,
} from '../../api/client';
import { FaultNote } from '../../parts/Fault';
import { TitleField } from '../../brief/TitleField';
import { Chart } from '../../chart/Chart';
import { Chosen } from '../../sheet/Chosen';
import { DepthBar } from '../../sheet/DepthBar';
import { allInSight, putBefore, reordered, someOutOfSight } from './direct';
import { Find } from '../../sheet/Find';
import { Footnotes } from '../../sheet/Footnotes';
import { Gather } from './Gather';
import { LayoutSwitch } from './LayoutSwitch';
import { NoteDialog, withoutNote, type NotePlace } from './NoteDialog';
import { outline, PATH, type Row } from '../../sheet/outline';
import { pathIn, type Named } from './naming';
import { OverDialog } from './OverDialog';
import { PeriodSteps } from './PeriodSteps';
import { RenameLine } from './RenameLine';
import { SheetMenu, type MenuAt } from './SheetMenu';
import type { Questioned } from '../../sheet/questioned';
import { SheetTable, type Scrolling, type SheetActions } from '../../sheet/SheetTable';
import { sorted, sortedBy } from './sorting';
import type { At } from '../../sheet/grid';
import { useClocks } from '../../definition/useClocks';
import { useFollowed } from './useFollowed';
import { useGrid } from '../../sheet/useGrid';
import { useOpenness } from '../../sheet/useOpenness';
import { useSheetKeys } from '../../sheet/useSheetKeys';

interface Props {
  id: number;
  report: Report;
  sheet: SheetView;
  stale: boolean;
  trial: boolean;
  /** Whether a newer sheet is loading. */
  busy: boolean;
  change: (report: Report) => void;
  gather: (what: Gathering) => void;
  ungroup: (what: Ungrouping) => void;
  over: (what: OtherSource) => void;
  rename: (what: Renaming) => void;
  question: (cell: Questioned | null) => void;
  inView: (at: number, open: number, first: number) => void;
}

/** The sheet's paper: title, depth, layout, find, the lines themselves, and direct edits of them. */
export const SheetPaper = memo(function SheetPaper({
  id,
  report,
  sheet,
  stale,
  trial,
  busy,
  change,
  gather,
  ungroup,
  over,
  rename,
  question,
  inView,
}: Props) {
  const base = `/reports/${id}` as const;
  const [open, setOpen] = useOpenness(String(id), sheet.down.length);
  const layout = useMemo(() => report.layout ?? {}, [report.layout]);
  const columns = layout.lines === 'columns';
  const rows = useMemo(() => {
    const spaced = new Set(
      sheet.down.flatMap((level, k) => (layout.levels?.[level.name]?.space ? [k + 1] : [])),
    );
    return outline(sheet, open, columns, spaced);
  }, [sheet, open, columns, layout]);
  const [chosen, setChosen] = useState<Row[]>([]);
  const clocks = useClocks(report.source);
  const { grid, move, extend, clear } = useGrid();
  const [menu, setMenu] = useState<MenuAt | null>(null);
  const [naming, setNaming] = useState<Named | null>(null);
  const [gathering, setGathering] = useState(false);
  const [finding, setFinding] = useState(false);
  const [noting, setNoting] = useState<NotePlace | null>(null);
  const [putting, setPutting] = useState(false);
  const [charted, setCharted] = useState(false);
  const [followed, setFollowed] = useState<string | null>(null);
  const [refused, setRefused] = useState<Error | null>(null);
  const table = useRef<Scrolling>(null);
  const seen = useCallback(
    (at: number, first: number) => inView(at, open.depth, first),
    [inView, open.depth],
  );
  useFollowed(rows, followed, grid.corner?.row, move);
  const find = () => {
    setNaming(null);
    setGathering(false);
    setFinding(true);
  };
  useSheetKeys({ find, chart: () => setCharted(!charted) });

  const ask = (at: At) => {
    const row = rows[at.row];
    const figures = sheet.figures.length;
    const column = sheet.columns[Math.floor(at.place / figures)];
    const figure = sheet.figures[at.place % figures];
    if (row?.filled && column && figure) question({ figure: figure.name, line: row.line, column: column.id });
  };
  const actions: SheetActions = {
    focus: move,
    drag: extend,
    choose: (row, more, range) => setChosen(chosenNext(rows, chosen, row, more, range)),
    toggle: (row) =>
      row.open !== null && setOpen({ ...open, byHand: { ...open.byHand, [row.path]: !row.open } }),
    question: ask,
    sort: (place) => change(sorted(report, sheet, place)),
    drop: (row, before) => {
      const next = putBefore(report, rows, row, before);
      if (next) change(next);
    },
    reorder: (row, by) => {
      const next = reordered(report, rows, row, by);
      if (!next) return;
      setFollowed(row.path);
      change(next);
    },
    menu: (at, where) => setMenu({ at, where }),
    clear: () => {
      clear();
      setChosen([]);
      setGathering(false);
      question(null);
    },
  };
  const narrow = (what: Narrowing) => {
    setRefused(null);
    void post(`${base}/sheets/${sheet.key}/narrowed`, what)
      .then(({ sql }) => change({ ...report, only: [...(report.only ?? []), sql] }))
      .catch(setRefused);
  };
  const go = useCallback(
    (at: number) => {
      move({ row: at, place: -1 }, false);
      table.current?.show(at);
    },
    [move],
  );
  const back = () => table.current?.focus();
  const show = (row: Row) => {
    const byHand = { ...open.byHand };
    row.path.split(PATH).forEach((_, k, parts) => (byHand[parts.slice(0, k).join(PATH)] = true));
    setOpen({ ...open, byHand });
  };
  const paths = useMemo(() => new Set(chosen.map((row) => row.path)), [chosen]);
  return (
    <section className={`paper sheet-paper${stale ? ' stale' : ''}${trial ? ' trial' : ''}`} aria-busy={busy}>
      <div className="sheet-head">
        <div>
          <TitleField title={report.title} change={(title) => change({ ...report, title })} />
          <p>
            <button className="linked" title="Use another source" onClick={() => setPutting(true)}>
              {report.source}
            </button>
            {subtitle(report, sheet)}
            {sheet.scale && <b className="scaled"> · {sheet.scale}</b>}
          </p>
        </div>
        <PeriodSteps report={report} clocks={clocks} change={change} />
        <LayoutSwitch report={report} sheet={sheet} change={change} />
        <button
          className={`tool${charted ? ' on' : ''}`}
          onClick={() => setCharted(!charted)}
          title="Chart (C)"
        >
          chart
        </button>
        <button className="tool" onClick={find} title="Find on the sheet (F)">
          find
        </button>
        <button className="tool" onClick={() => setNoting({})} title="A note under the sheet">
          note
        </button>
        <DepthBar
          sheet={sheet}
          depth={Math.min(open.depth, sheet.down.length)}
          open={(depth) => setOpen({ depth, byHand: {} })}
        />
      </div>
      <Said sheet={sheet} report={report} change={change} />
      <FaultNote error={refused} />
      {finding && (
        <Find
          sheet={sheet}
          rows={rows}
          close={() => {
            setFinding(false);
            back();
          }}
          go={go}
          reveal={show}
        />
      )}
      {charted ? (
        <Chart base={base} sheet={sheet} rows={rows} chosen={paths} title={report.title} />
      ) : (
        <SheetTable
          base={base}
          layout={layout}
          sheet={sheet}
          rows={rows}
          grid={grid}
          chosen={paths}
          sorted={sortedBy(report, sheet)}
          actions={actions}
          seen={seen}
          handle={table}
        />
      )}
      <Footnotes sheet={sheet} remove={(i) => change(withoutNote(report, sheet.as_of, i))} />
      <Chosen base={base} sheet={sheet} rows={rows} grid={grid} chosen={chosen} />
      {chosen.length > 0 && chosen.every((row) => row.value !== null) && (
        <Gather
          key={gathering ? 'asked for' : 'offered'}
          report={report}
          level={sheet.down[(chosen[0]?.depth ?? 0) - 1]?.name}
          chosen={chosen}
          change={change}
          gather={gather}
          typing={gathering}
          done={() => {
            setChosen([]);
            setGathering(false);
            back();
          }}
        />
      )}
      {naming && (
        <RenameLine
          before={naming.before}
          close={() => {
            setNaming(null);
            back();
          }}
          rename={(label) => rename(asked(naming, label))}
        />
      )}
      <SheetMenu
        at={menu}
        close={() => setMenu(null)}
        back={back}
        report={report}
        sheet={sheet}
        rows={rows}
        chosen={chosen}
        clocks={clocks}
        change={change}
        question={ask}
        gather={(lines) => {
          setChosen(lines);
          setNaming(null);
          setFinding(false);
          setGathering(true);
        }}
        narrow={narrow}
        ungroup={(row) => ungroup({ entry: row.entry, path: pathIn(sheet, row) })}
        rename={(what) => {
          setGathering(false);
          setFinding(false);
          setNaming(what);
        }}
        note={setNoting}
      />
      {putting && <OverDialog id={id} source={report.source} put={over} close={() => setPutting(false)} />}
      {noting && (
        <NoteDialog
          place={noting}
          asOf={sheet.as_of}
          report={report}
          change={change}
          close={() => {
            setNoting(null);
            back();
          }}
        />
      )}
    </section>
  );
});

const asked = ({ entry, path, across, every }: Named, label: string): Renaming => ({
  entry,
  path,
  across,
  every,
  label,
});

/** The selection after a click: that line, the previous ones as well, or all between. */
function chosenNext(rows: Row[], chosen: Row[], row: Row, more: boolean, range: boolean): Row[] {
  const last = chosen[chosen.length - 1];
  if (range && last) {
    const [a, b] = [rows.findIndex((r) => r.path === last.path), rows.indexOf(row)].sort((x, y) => x - y);
    const between = rows.slice(a, (b ?? 0) + 1).filter((r) => r.depth === row.depth && r.filled);
    return [...new Map(between.map((r) => [r.path, r])).values()];
  }
  if (chosen.some((c) => c.path === row.path)) return chosen.filter((c) => c.path !== row.path);
  return more && chosen[0]?.entry === row.entry ? [...chosen, row] : [row];
}

/** Warnings about the sheet, each once, with what to do about it. */
function Said({ sheet, report, change }: Pick<Props, 'sheet' | 'report' | 'change'>) {
  const empty = sheet.tie_out.on_sheet === 0 && sheet.tie_out.read > 0;
  if (!empty && sheet.warnings.length === 0 && !someOutOfSight(report)) return null;
  return (
    <div className="said">
      {empty && <span>No record is left by these conditions. The strip below says where they went.</span>}
      {sheet.warnings.map((warning) => (
        <span key={warning} className="warned">
          {warning}
        </span>
      ))}
      {someOutOfSight(report) && (
        <button className="link" onClick={() => change(allInSight(report))}>
          Show all lines and columns again
        </button>
      )}
    </div>
  );
}

function subtitle(report: Report, sheet: SheetView): string {
  const calendars = [...(report.down ?? []), ...(report.across ?? [])].map((e) =>
    'period' in e ? e.calendar : null,
  );
  const named = [...new Set(calendars.filter((c): c is string => Boolean(c)))];
  return [...named, ...sheet.notes].map((one) => ` · ${one}`).join('');
}
