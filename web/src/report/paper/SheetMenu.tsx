import '../report.css';

import { Divider, ListItemText, Menu, MenuItem } from '@mui/material';
import { useState, type ReactNode } from 'react';

import type { Narrowing, Report, SheetView } from '../../api/client';
import { grainWords } from '../../definition/sentence';
import { withEntry } from '../../definition/change';
import { finest, stepped } from '../../definition/grains';
import { comparedBefore, hiddenColumn, hiddenFigure, hiddenLines, reordered, widened } from './direct';
import type { Row } from '../../sheet/outline';
import { namesOfColumn, namesOfLine, type Named } from './naming';
import type { NotePlace } from './NoteDialog';
import { figureAt, sorted } from './sorting';
import type { At } from '../../sheet/grid';

export interface MenuAt {
  at: At;
  where: { top: number; left: number };
}

interface Props {
  at: MenuAt | null;
  close: () => void;
  back: () => void;
  report: Report;
  sheet: SheetView;
  rows: Row[];
  chosen: Row[];
  /** The columns with times of day. */
  clocks: ReadonlySet<string>;
  change: (report: Report) => void;
  question: (at: At) => void;
  gather: (rows: Row[]) => void;
  narrow: (what: Narrowing) => void;
  ungroup: (row: Row) => void;
  rename: (what: Named) => void;
  note: (place: NotePlace) => void;
}

/** What can be done at a line, a heading or a number. When it is gone, the focus is back on the sheet, or in the field
 * that the choice opened. */
export function SheetMenu(props: Props) {
  const { at, close, back } = props;
  const [then, setThen] = useState<Opens | null>(null);
  return (
    <Menu
      open={at !== null}
      onClose={close}
      disableRestoreFocus
      transitionDuration={{ exit: 0 }}
      slotProps={{
        transition: {
          onExited: () => {
            (then?.open ?? back)();
            setThen(null);
          },
        },
      }}
      anchorReference="anchorPosition"
      anchorPosition={at?.where ?? { top: 0, left: 0 }}
    >
      {at && items(props, at.at, setThen)}
    </Menu>
  );
}

/** What an item opens, a field that takes the focus. */
interface Opens {
  open: () => void;
}
type Change = [string, Report | null | Opens | (() => void), string?];

function items(props: Props, at: At, later: (opens: Opens) => void): ReactNode[] {
  const groups =
    at.row < -1
      ? ofSpan(props, at)
      : at.row < 0
        ? ofHeading(props, at.place)
        : at.place < 0
          ? ofLine(props, at)
          : ofNumber(props, at);
  return groups
    .map((group) => group.filter(([, does]) => does !== null))
    .filter((group) => group.length > 0)
    .flatMap((group, g) => [
      g > 0 && <Divider key={`divider ${g}`} />,
      ...group.map(([text, does, key]) => (
        <MenuItem
          key={text}
          dense
          onClick={() => {
            props.close();
            if (typeof does === 'function') does();
            else if (does && 'open' in does) later(does);
            else if (does) props.change(does);
          }}
        >
          <ListItemText>{text}</ListItemText>
          {key && <span className="menu-key">{key}</span>}
        </MenuItem>
      )),
    ]);
}

/** A period entry made coarser or finer, if possible. */
function steps({ report, clocks }: Props, kind: 'down' | 'across', index: number): Change[] {
  const entry = report[kind]?.[index];
  if (!entry || !('period' in entry)) return [];
  const made = (by: 1 | -1): Change[] => {
    const next = stepped(entry, by, clocks.has(entry.period));
    const last = next && finest(next);
    if (!next || !last) return [];
    const words = `${by < 0 ? 'Coarser' : 'Finer'}: by ${grainWords(last)}`;
    return [[words, withEntry(report, kind, index, next)]];
  };
  return [...made(-1), ...made(1)];
}

const OTHER = 1;
const WORKED = 4;

/** Items to keep or leave out lines, all of one depth; none for a total, or if no condition selects them. */
function narrowingLines({ narrow }: Props, many: Row[]): Change[] {
  const [first] = many;
  if (!first || many.some((row) => row.depth === 0 || row.special === OTHER || row.special === WORKED))
    return [];
  const named = first.own[first.depth - 1] || 'this line';
  const these = many.length > 1 ? `these ${many.length} lines` : named;
  const does = (keep: boolean) => () =>
    narrow({ down: true, places: many.map((row) => row.line), depth: first.depth, keep });
  return [
    [`Keep only ${these}`, does(true)],
    [`Leave out ${these}`, does(false)],
  ];
}

/** Items to keep or leave out a column, and each member above it. */
function narrowingColumns({ sheet, narrow }: Props, place: number, depth?: number): Change[] {
  const column = figureAt(sheet, place)?.column;
  return (column?.names ?? []).slice(0, depth).flatMap((name, k, names): Change[] => {
    const said = names.slice(0, k).includes(name) ? `${name} alone` : name;
    const does = (keep: boolean) => () =>
      narrow({ down: false, places: [column?.id ?? 0], depth: k + 1, keep });
    return [
      [`Keep only ${said}`, does(true)],
      [`Leave out ${said}`, does(false)],
    ];
  });
}

function ofLine(props: Props, at: At): Change[][] {
  const { report, sheet, rows, chosen, change, gather, ungroup, rename, note } = props;
  const row = rows[at.row];
  if (!row) return [];
  const noted: Change = ['Add a note…', { open: () => note({ line: row.own }) }];
  const sort: Change = ['Sort by label', () => change(sorted(report, sheet, -1)), 'S'];
  if (row.depth === 0) return [[sort], [noted]];
  const many = chosen.some((c) => c.path === row.path) ? chosen : [row];
  const gathered = many.every((one) => one.value !== null);
  return [
    [
      ...narrowingLines(props, many),
      [
        `Put ${many.length > 1 ? 'them' : 'it'} out of sight (totals still count ${many.length > 1 ? 'them' : 'it'})`,
        hiddenLines(report, many),
      ],
    ],
    [
      ['Gather into a category…', gathered ? { open: () => gather(many) } : null],
      ['Ungroup', isGroup(report, row) ? () => ungroup(row) : null],
      ...renames(namesOfLine(report, sheet, row), rename),
      noted,
    ],
    [
      sort,
      ['Move up', reordered(report, rows, row, -1), 'Alt ↑'],
      ['Move down', reordered(report, rows, row, 1), 'Alt ↓'],
    ],
    steps(props, 'down', row.entry),
  ];
}

/** Whether a line is a category of a tree. */
function isGroup(report: Report, row: Row): boolean {
  const entry = report.down?.[row.entry];
  return (
    row.special === 0 &&
    row.value === null &&
    entry !== undefined &&
    'category' in entry &&
    Boolean(entry.tree)
  );
}

/** The ways to rename something. */
function renames(names: Named[], rename: (what: Named) => void): Change[] {
  const [only, ...others] = names;
  if (only && others.length === 0) return [['Rename…', { open: () => rename(only) }]];
  return names.map((one) => [
    one.every ? `Rename ${one.before} of every year…` : `Rename ${one.before} alone…`,
    { open: () => rename(one) },
  ]);
}

/** The actions on a member above several columns. */
function ofSpan(props: Props, at: At): Change[][] {
  const depth = -1 - at.row;
  const names = figureAt(props.sheet, at.place)?.column.names.slice(0, depth) ?? [];
  return [
    narrowingColumns(props, at.place, depth),
    renames(namesOfColumn(props.report, names), props.rename),
    lastSteps(props, 'across'),
  ];
}

function ofHeading(props: Props, place: number): Change[][] {
  const { report, sheet, change } = props;
  if (place < 0)
    return [[['Sort by label', () => change(sorted(report, sheet, -1)), 'S']], lastSteps(props, 'down')];
  const found = figureAt(sheet, place);
  if (!found) return [];
  const name = found.figure;
  const wide = report.layout?.widths?.[name];
  return [
    [['Sort by this column', () => change(sorted(report, sheet, place)), 'S']],
    narrowingColumns(props, place),
    renames(namesOfColumn(report, found.column.names), props.rename),
    [
      ['Compare with the column before, as percent', comparedBefore(report, name, 'percent')],
      ['Compare with the column before, as difference', comparedBefore(report, name, 'difference')],
    ],
    [
      ['Put the column out of sight (totals still count it)', hiddenColumn(report, sheet, place)],
      [`Hide the figure ${name}`, hiddenFigure(report, name)],
    ],
    [
      ['Wider', widened(report, name, (wide ?? sheet.widths[place] ?? 8) + 3)],
      ['Narrower', widened(report, name, (wide ?? sheet.widths[place] ?? 8) - 2)],
      ['Width by itself', wide ? widened(report, name, null) : null],
    ],
    lastSteps(props, 'across'),
  ];
}

const lastSteps = (props: Props, kind: 'down' | 'across'): Change[] =>
  steps(props, kind, (props.report[kind] ?? []).length - 1);

function ofNumber(props: Props, at: At): Change[][] {
  const compared = ofHeading(props, at.place)[3];
  const found = figureAt(props.sheet, at.place);
  const row = props.rows[at.row];
  const line = row?.own ?? [];
  const noted = found && { line, column: found.column.names, figure: found.figure };
  return [
    [
      ['Explain this number', () => props.question(at), 'Enter'],
      ['Sort by this column', () => props.change(sorted(props.report, props.sheet, at.place)), 'S'],
      ['Add a note…', noted ? { open: () => props.note(noted) } : null],
    ],
    [...(row ? narrowingLines(props, [row]) : []), ...narrowingColumns(props, at.place)],
    compared ?? [],
  ];
}
