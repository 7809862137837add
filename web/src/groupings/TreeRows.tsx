import './groupings.css';
import '../parts/list.css';

import { TextField } from '@mui/material';
import { useState } from 'react';

import type { TreeLook, TreeRow } from '../api/client';
import { count, counted, day, money } from '../parts/words';
import { placeKey, rowKey } from './treeEdits';
import type { TreeEdits } from './useTreeEdits';

/** The lines of a tree with their records and shares. Lines are chosen by click, renamed in place, dragged onto a category,
 * or to the upper edge of a line to stand before it. */
export function TreeRows({ look, levels, edits }: { look: TreeLook; levels: string[]; edits: TreeEdits }) {
  const total =
    look.rows.filter((r) => r.depth === 0).reduce((sum, r) => sum + r.records, 0) +
    look.loose.reduce((sum, r) => sum + r.records, 0);
  return (
    <>
      <div className="tree-head">
        <span>{levels.join(' › ')}</span>
        <span className="num">Records</span>
        <span>Share of records</span>
        <span className="num">{look.over?.amount ?? ''}</span>
      </div>
      {look.rows.map((row) => (
        <Line key={placeKey(row)} row={row} total={total} edits={edits} />
      ))}
      {look.rows.length === 0 && (
        <p className="empty">
          The tree is empty. Choose values at the right and press G to gather them into a category.
        </p>
      )}
    </>
  );
}

function Line({ row, total, edits }: { row: TreeRow; total: number; edits: TreeEdits }) {
  const [over, setOver] = useState<'' | 'over' | 'before'>('');
  const category = row.value === null;
  const path = row.path.join('.');
  const key = rowKey(row);
  const chosen = edits.chosen.includes(key);
  const drop = (event: React.DragEvent) => {
    event.preventDefault();
    setOver('');
    const dragged = event.dataTransfer.getData('text/plain');
    const path = event.dataTransfer.getData('application/x-path');
    if (atTop(event) && path) edits.putBefore(path.split('.').map(Number), row.path);
    else if (!category) return;
    else if (dragged.startsWith('='))
      edits.moveTo(row.path, edits.values.includes(dragged.slice(1)) ? edits.values : [dragged.slice(1)]);
    else if (dragged) edits.mergeInto(dragged.split('.').map(Number), row.path);
  };
  return (
    <>
      <div
        className={`tree-row${category ? ' category' : ''}${chosen ? ' chosen' : ''}${over ? ` ${over}` : ''}`}
        draggable={edits.renaming !== path}
        aria-selected={chosen}
        role="treeitem"
        onDragStart={(event) => {
          event.dataTransfer.setData('text/plain', key);
          if (row.path.length > 0) event.dataTransfer.setData('application/x-path', path);
        }}
        onDragOver={(event) => {
          const next = atTop(event) && row.path.length > 0 ? 'before' : category ? 'over' : '';
          if (next) event.preventDefault();
          setOver(next);
        }}
        onDragLeave={() => setOver('')}
        onDrop={drop}
        onClick={(event) => edits.choose(key, event.ctrlKey || event.metaKey || event.shiftKey)}
        onDoubleClick={() => row.path.length > 0 && edits.setRenaming(path)}
      >
        <span className="name" style={{ paddingLeft: 26 * row.depth }}>
          {category && (
            <span className="grab" aria-hidden="true">
              ⋮⋮
            </span>
          )}
          {edits.renaming === path && row.path.length > 0 ? <Rename row={row} edits={edits} /> : row.label}
          {row.value !== null && row.value !== row.label && <small>{row.value}</small>}
          {category && <small>{counted(row.members, 'value')}</small>}
          {row.caught && <small>caught by the rule</small>}
          {row.since && <small>since {day(row.since)}</small>}
          {row.until && <small>until {day(row.until)}, then elsewhere</small>}
          {category && edits.negative(row.path) && <small className="neg">counts negative</small>}
          {row.rule && (
            <button className="rule-chip" onClick={() => edits.setRuling(path)} title={row.rule}>
              {ruleWords(row.rule)}
            </button>
          )}
        </span>
        <span className="num">{count(row.records)}</span>
        <span className="share">
          <i style={{ width: `${total ? (100 * row.records) / total : 0}%` }} />
        </span>
        <span className="num">{money(row.amount)}</span>
      </div>
      {edits.ruling === path && category && <RuleField row={row} edits={edits} />}
    </>
  );
}

/** Whether something is dragged over the upper edge of a line, to be inserted before it. */
function atTop(event: React.DragEvent): boolean {
  const box = event.currentTarget.getBoundingClientRect();
  const place = (event.clientY - box.top) / box.height;
  return place >= 0 && place < 0.3;
}

const ruleWords = (rule: string) => {
  const start = /^value LIKE '([^%_']*)%'$/.exec(rule.trim())?.[1];
  return start === undefined ? rule : `starts with ${start}`;
};

function Rename({ row, edits }: { row: TreeRow; edits: TreeEdits }) {
  return (
    <input
      className="rename"
      aria-label="Name"
      autoFocus
      defaultValue={row.label}
      onFocus={(event) => event.target.select()}
      onClick={(event) => event.stopPropagation()}
      onBlur={(event) => edits.rename(row, event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') edits.setRenaming(null);
      }}
    />
  );
}

function RuleField({ row, edits }: { row: TreeRow; edits: TreeEdits }) {
  const [draft, setDraft] = useState(() => row.rule || edits.ruleFor(row.path));
  return (
    <div style={{ padding: '10px 20px 12px 46px', borderBottom: '1px solid var(--rule-soft)' }}>
      <TextField
        autoFocus
        fullWidth
        label={`Rule of ${row.label}`}
        value={draft}
        helperText="an SQL condition on value, as value LIKE 'BRA-%'; Enter shows what it catches, an empty rule is none"
        onChange={(event) => setDraft(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') edits.setRule(row.path, draft);
          if (event.key === 'Escape') edits.setRuling(null);
        }}
      />
    </div>
  );
}
