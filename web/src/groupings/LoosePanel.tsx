import './loose.css';
import '../parts/margin.css';

import { Button } from '@mui/material';
import { useState } from 'react';

import type { GroupingView, Tree, TreeLook } from '../api/client';
import { Choose, Written } from '../parts/Field';
import { count, counted, money } from '../parts/words';
import { ImpactNote } from './SaveBar';
import { rowKey } from './treeEdits';
import type { TreeEdits } from './useTreeEdits';
import type { Draft } from './useDraft';

const KEYS: [string[], string][] = [
  [['G'], 'gather the chosen ones into a new category'],
  [['M'], 'move them to a category, for good or from a day on'],
  [['R'], 'write a rule that catches them'],
  [['F2'], 'rename the chosen line'],
  [['Alt', '↑', '↓'], 'reorder'],
  [['Ctrl', 'Z'], 'undo'],
];

/** The values not placed yet, the actions on the selected lines, and the effect of saving. */
export function LoosePanel({
  look,
  edits,
  draft,
  view,
}: {
  look: TreeLook | undefined;
  edits: TreeEdits;
  draft: Draft<Tree>;
  view: GroupingView;
}) {
  const loose = look?.loose ?? [];
  return (
    <aside className="margin" aria-label="Not placed">
      <ImpactNote draft={draft} view={view} />
      <h2>{loose.length > 0 ? 'Not placed yet' : 'Everything is placed'}</h2>
      <p className="say">
        {loose.length > 0 &&
          `${counted(loose.length, 'value')}, ${counted(
            loose.reduce((sum, r) => sum + r.records, 0),
            'record',
          )}.`}
      </p>
      <div role="listbox" aria-label="Not placed values">
        {loose.slice(0, 400).map((row) => {
          const key = rowKey(row);
          const chosen = edits.chosen.includes(key);
          return (
            <div
              key={key}
              className={`loose-row${chosen ? ' chosen' : ''}`}
              role="option"
              aria-selected={chosen}
              draggable
              onDragStart={(event) => event.dataTransfer.setData('text/plain', key)}
              onClick={() => edits.choose(key, true)}
            >
              <span className="tick" aria-hidden="true">
                {chosen && '✓'}
              </span>
              <span>{row.label}</span>
              <span className="num">{count(row.records)}</span>
              <span className="num">{money(row.amount)}</span>
            </div>
          );
        })}
      </div>
      <Chosen look={look} edits={edits} />
      <div className="keys-hint">
        Drag onto a category, or to the upper edge of a line to put it there. Or type:
        {KEYS.map(([keys, does]) => (
          <div key={does}>
            {keys.map((key) => (
              <kbd key={key} className="kbd" style={{ marginRight: 4 }}>
                {key}
              </kbd>
            ))}{' '}
            {does}
          </div>
        ))}
      </div>
    </aside>
  );
}

function Chosen({ look, edits }: { look: TreeLook | undefined; edits: TreeEdits }) {
  const { single } = edits;
  if (edits.moving && edits.values.length > 0) return <Moving look={look} edits={edits} />;
  if (!single || single.value !== null) return null;
  return (
    <div style={{ display: 'flex', gap: 4, marginTop: 12 }}>
      <Button onClick={() => edits.setRenaming(single.path.join('.'))}>Rename</Button>
      <Button onClick={() => edits.setRuling(single.path.join('.'))}>Rule</Button>
      <Button onClick={() => edits.ungroup(single.path)}>Ungroup</Button>
      <Button
        title="whether the amounts under it are turned, in totals too"
        onClick={() => edits.turn(single.path)}
      >
        {edits.negative(single.path) ? 'Count as it is' : 'Count negative'}
      </Button>
    </div>
  );
}

/** The target of the selected values: permanently, or from a day on. */
function Moving({ look, edits }: { look: TreeLook | undefined; edits: TreeEdits }) {
  const [since, setSince] = useState('');
  const categories = (look?.rows ?? []).filter((row) => row.value === null);
  const places: [string, string][] = categories.map((row) => [row.path.join('.'), row.label]);
  if (!since) places.push(['none', 'to no category']);
  const go = (to: string) => {
    const path = to === 'none' ? null : to.split('.').map(Number);
    if (path && since) edits.moveFrom(path, since);
    else edits.moveTo(path);
  };
  return (
    <div style={{ display: 'grid', gap: 14, marginTop: 14 }}>
      <Written
        label="From the day"
        type="date"
        value={since}
        clear
        change={setSince}
        help="empty moves them for good; with a day they stay where they are until then"
      />
      <Choose
        label={`Move ${counted(edits.values.length, 'value')} to`}
        value=""
        options={places}
        change={go}
      />
    </div>
  );
}
