import { useEffect, useState } from 'react';

import type { Tree, TreeLook, TreeRow } from '../api/client';
import { isElsewhere } from '../parts/keys';
import {
  changed,
  commonStart,
  freeLabel,
  gathered,
  merged,
  movedFrom,
  movedTo,
  nodeAt,
  placedBefore,
  reordered,
  rowKey,
  ungrouped,
  type Path,
} from './treeEdits';

/** The edits of a tree, and its selection. */
export function useTreeEdits(tree: Tree, look: TreeLook | undefined, change: (tree: Tree) => void) {
  const [chosen, setChosen] = useState<string[]>([]);
  const [renaming, setRenaming] = useState<string | null>(null);
  const [ruling, setRuling] = useState<string | null>(null);
  const [moving, setMoving] = useState(false);
  const values = chosen.filter((key) => key.startsWith('=')).map((key) => key.slice(1));
  const all = [...(look?.rows ?? []), ...(look?.loose ?? [])];
  const rowOf = (key: string) => all.find((row) => rowKey(row) === key);
  const [only] = chosen;
  const single = chosen.length === 1 && only !== undefined ? rowOf(only) : undefined;
  const after = (next: Tree) => {
    setChosen([]);
    setMoving(false);
    change(next);
  };
  const gather = () => {
    if (values.length === 0) return;
    const label = freeLabel(tree, 'New category');
    const next = gathered(tree, values, label);
    after(next);
    setRenaming(String((next.roots ?? []).length - 1));
  };
  const edits = {
    chosen,
    values,
    single,
    renaming,
    ruling,
    moving,
    setMoving,
    setRuling,
    setRenaming,
    gather,
    choose: (key: string, more: boolean) =>
      setChosen(
        more
          ? chosen.includes(key)
            ? chosen.filter((k) => k !== key)
            : [...chosen, key]
          : chosen.length === 1 && only === key
            ? []
            : [key],
      ),
    moveTo: (path: Path | null, which = values) => after(movedTo(tree, which, path)),
    moveFrom: (path: Path, since: string) => after(movedFrom(tree, values, path, since)),
    putBefore: (from: Path, before: Path) => after(placedBefore(tree, from, before)),
    mergeInto: (from: Path, into: Path) => after(merged(tree, from, into)),
    rename: (row: TreeRow, label: string) => {
      setRenaming(null);
      if (label.trim() && label !== row.label) change(changed(tree, row.path, { label: label.trim() }));
    },
    ungroup: (path: Path) => after(ungrouped(tree, path)),
    setRule: (path: Path, rule: string) => {
      setRuling(null);
      change(changed(tree, path, { rule: rule.trim() || null }));
    },
    negative: (path: Path) => nodeAt(tree, path)?.sign === -1,
    turn: (path: Path) => change(changed(tree, path, { sign: nodeAt(tree, path)?.sign === -1 ? null : -1 })),
    ruleFor: (path: Path) =>
      nodeAt(tree, path)?.rule ?? `value LIKE '${commonStart(values).replaceAll("'", "''")}%'`,
    reorder: (by: number) => {
      if (!single || single.path.length === 0) return;
      const path = [...single.path];
      const at = path.pop() ?? 0;
      change(reordered(tree, single.path, by));
      if (single.value === null) setChosen([[...path, Math.max(0, at + by)].join('.')]);
    },
    startRule: () => {
      const category = single?.value === null ? single.path : null;
      if (category) return setRuling(category.join('.'));
      if (values.length === 0) return;
      const label = freeLabel(tree, commonStart(values) || 'New category');
      const rule = `value LIKE '${commonStart(values).replaceAll("'", "''")}%'`;
      after({ ...tree, roots: [...(tree.roots ?? []), { label, rule }] });
      setRuling(String((tree.roots ?? []).length));
    },
  };
  useKeys(edits);
  return edits;
}

export type TreeEdits = ReturnType<typeof useTreeEdits>;

/** G gathers, M moves, R writes a rule, Alt with an arrow reorders, Enter renames. */
function useKeys(edits: TreeEdits) {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (isElsewhere(event) || event.ctrlKey || event.metaKey) return;
      const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
      if (event.altKey && by) {
        event.preventDefault();
        return edits.reorder(by);
      }
      const key = event.key.toLowerCase();
      if (event.altKey || !['g', 'm', 'r', 'f2'].includes(key)) return;
      event.preventDefault();
      if (key === 'g') edits.gather();
      if (key === 'm' && edits.values.length > 0) edits.setMoving(true);
      if (key === 'r') edits.startRule();
      if (key === 'f2' && edits.single?.path.length) edits.setRenaming(edits.single.path.join('.'));
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  });
}
