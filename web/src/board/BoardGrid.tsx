import './board.css';
import '../intake/intake.css';
import '../parts/state.css';

import { Fragment } from 'react';
import { Link } from 'react-router';

import type { BoardRowView, BoardView, CrossingView } from '../api/client';
import { count, day } from '../parts/words';
import { isAt, type Picked } from './picking';

const MOST_CHIPS = 2;
const TALLEST = 38;
const WORDS: Record<string, string> = {
  issued: 'issued',
  restated: 'issued again after a change',
  due: 'due',
  late: 'late',
  waiting: 'waits for its source',
  past: 'not issued',
  open: 'not ended yet',
};

const LOOK: Record<string, string> = { waiting: 'waits' };

interface Props {
  board: BoardView;
  picked: Picked | null;
  pick: (to: Picked) => void;
  cadence: (report: number) => void;
}

/** Reports down the side, periods along the top, the state of the edition at each crossing; the sources beneath. */
export function BoardGrid({ board, picked, pick, cadence }: Props) {
  const last = board.columns.length - 1;
  const template = `minmax(150px, 240px) repeat(${board.columns.length}, minmax(44px, 1fr))`;
  return (
    <>
      <div
        className="paper board-grid"
        style={{ gridTemplateColumns: template }}
        role="group"
        aria-label="Board"
      >
        <div className="board-head board-name">
          <span>
            {board.calendar} {board.year}
          </span>
        </div>
        {board.columns.map((column, i) => (
          <div
            key={column.label}
            className={`board-head${i === last ? ' now' : ''}`}
            title={`${day(column.first_day)} – ${day(column.last_day)}`}
          >
            <Heading label={column.label} />
          </div>
        ))}
        <div className="board-section">Reports</div>
        {board.rows.map((row) => (
          <Fragment key={row.id}>
            <Name row={row} cadence={cadence} />
            {row.cells.map((cell, i) => (
              <Cell
                key={board.columns[i]?.label}
                cell={cell}
                now={i === last}
                report={row}
                picked={picked}
                pick={pick}
              />
            ))}
          </Fragment>
        ))}
        {board.sources.length > 0 && <div className="board-section">Sources</div>}
        {board.sources.map((source) => (
          <Source key={source.id} source={source} columns={board.columns} />
        ))}
      </div>
      <Key />
    </>
  );
}

/** A period's name, its year under it. */
function Heading({ label }: { label: string }) {
  const [, name, year] = /^(\S+) (\d{4})$/.exec(label) ?? [];
  if (!name) return <span>{label}</span>;
  return (
    <>
      {name}
      <small>{year}</small>
    </>
  );
}

function Name({ row, cadence }: { row: BoardRowView; cadence: (id: number) => void }) {
  return (
    <div className="board-name">
      <Link to={`/reports/${row.id}`}>{row.title}</Link>
      <button onClick={() => cadence(row.id)} title="When it is due, what is checked, who gets it">
        {row.cadence}
        {row.by_itself && ', by itself'}
      </button>
    </div>
  );
}

function Cell({
  cell,
  now,
  report,
  picked,
  pick,
}: {
  cell: CrossingView[];
  now: boolean;
  report: BoardRowView;
  picked: Picked | null;
  pick: (to: Picked) => void;
}) {
  const here = cell.find((crossing) => isAt(picked, report.id, crossing));
  const shown = cell.length > MOST_CHIPS ? [worst(cell)] : cell;
  const issued = cell.filter((crossing) => crossing.edition).length;
  return (
    <div className={`${now ? 'now' : ''}${here ? ' picked' : ''}`}>
      {shown.map((crossing) => {
        const words = cell.length > MOST_CHIPS ? `${issued}/${cell.length}` : chip(crossing);
        return (
          <button
            key={crossing.last_day}
            className={`state ${LOOK[crossing.state] ?? crossing.state}${cell.some((c) => c.moved) ? ' moved' : ''}`}
            aria-pressed={here === crossing}
            aria-label={`${words} ${report.title}, ${crossing.label}: ${said(crossing)}`}
            title={`${crossing.label}: ${said(crossing)}`}
            onClick={() => pick({ report: report.id, lastDay: crossing.last_day })}
          >
            {words}
          </button>
        );
      })}
    </div>
  );
}

const RANK = ['late', 'due', 'waiting', 'restated', 'issued', 'past', 'open'];
const worst = (cell: CrossingView[]) =>
  [...cell].sort((a, b) => RANK.indexOf(a.state) - RANK.indexOf(b.state))[0] as CrossingView;

const chip = (crossing: CrossingView) =>
  crossing.edition
    ? crossing.sign
    : ({ due: 'due', late: 'late', waiting: 'waits' }[crossing.state as string] ?? '·');

function said(crossing: CrossingView): string {
  const moved = crossing.moved
    ? ', and its numbers have moved since'
    : crossing.as_is
      ? `, moved since and left as it is: ${crossing.as_is}`
      : '';
  const why = crossing.waits ? `, ${crossing.waits}` : crossing.left ? `, left: ${crossing.left}` : '';
  const due = ['due', 'late', 'waiting'].includes(crossing.state) ? `, due ${day(crossing.due)}` : '';
  return `${WORDS[crossing.state]}${due}${moved}${why}`;
}

function Source({
  source,
  columns,
}: {
  source: BoardView['sources'][number];
  columns: BoardView['columns'];
}) {
  const most = Math.max(1, ...source.cells.map((cell) => cell.records));
  return (
    <>
      <div className="board-name">
        <Link to={`/sources/${source.id}`}>{source.name}</Link>
        <span>records by {source.of}</span>
      </div>
      {source.cells.map((cell, i) => (
        <div
          key={columns[i]?.label}
          className={i === columns.length - 1 ? 'now' : ''}
          title={`${columns[i]?.label}: ${count(cell.records)} records, ${cell.words}`}
        >
          {cell.filled !== 'before' && (
            <span
              className={`bar ${cell.filled}`}
              role="img"
              aria-label={`${columns[i]?.label}: ${count(cell.records)} records, ${cell.words}`}
              style={cell.records ? { height: Math.max(2, (cell.records / most) * TALLEST) } : undefined}
            />
          )}
        </div>
      ))}
    </>
  );
}

const Key = () => (
  <div className="board-key" aria-hidden="true">
    <span>
      <i className="state issued" /> issued
    </span>
    <span>
      <i className="state restated" /> issued again
    </span>
    <span>
      <i className="state due" /> due
    </span>
    <span>
      <i className="state late" /> late
    </span>
    <span>
      <i className="state waits" /> waits
    </span>
    <span>
      <i className="state issued moved" /> has moved since
    </span>
    <span style={{ marginLeft: 'auto' }}>bars: records; hatched: days are missing</span>
  </div>
);
