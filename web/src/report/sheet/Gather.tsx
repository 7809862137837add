import { Button, TextField } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { Fault, get, post, put, type GroupingView, type Report, type Tree } from '../../api/client';
import { useGroupings } from '../../api/queries';
import { freeLabel, gathered } from '../../groupings/treeEdits';
import { FaultNote } from '../../parts/Fault';
import { capital, counted } from '../../parts/words';
import { withEntry, withLine } from '../change';
import type { Row } from './outline';

/** Chosen lines of the sheet, gathered into a category of the entry's tree, or of a new tree over its column. */
export function Gather({
  report,
  level,
  chosen,
  change,
  done,
}: {
  report: Report;
  level: string | undefined;
  chosen: Row[];
  change: (report: Report) => void;
  done: () => void;
}) {
  const queries = useQueryClient();
  const groupings = useGroupings().data ?? [];
  const [name, setName] = useState('');
  const at = chosen[0]?.entry ?? -1;
  const entry = report.down?.[at];
  const values = chosen.map((row) => row.value).filter((v): v is string => v !== null);
  const gather = useMutation({
    mutationFn: async () => {
      if (!entry || !('category' in entry)) throw new Fault('only lines of a category can be gathered');
      const known = groupings.find((g) => g.kind === 'tree' && g.name === entry.tree);
      if (known) {
        const view = await get<GroupingView>(`/groupings/${known.id}`);
        const tree = view.document as Tree;
        await put(`/groupings/${known.id}`, gathered(tree, values, freeLabel(tree, name.trim())));
        return null;
      }
      const title = freeName(
        groupings.map((g) => g.name),
        `${capital(entry.category)} groups`,
      );
      const levels = [`${capital(entry.category)} group`, entry.name ?? entry.category];
      const empty: Tree = { kalendor: 1, kind: 'tree', name: title, levels, roots: [] };
      await post('/groupings', gathered(empty, values, name.trim()));
      return withEntry(report, 'down', at, { ...entry, tree: title, levels: null, name: null });
    },
    onSuccess: (next) => {
      void queries.invalidateQueries({ queryKey: ['groupings'] });
      void queries.invalidateQueries({ queryKey: ['grouping'] });
      void queries.invalidateQueries({ queryKey: ['sheet'] });
      done();
      if (next) change(next);
    },
  });
  return (
    <div className="gather" role="group" aria-label="Gather">
      <span>{counted(values.length, 'line')} chosen</span>
      <TextField
        placeholder="Name of the category"
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && name.trim() && gather.mutate()}
        slotProps={{ htmlInput: { 'aria-label': 'Name of the category' } }}
      />
      <Button variant="contained" disabled={!name.trim() || gather.isPending} onClick={() => gather.mutate()}>
        Gather into a category
      </Button>
      {chosen.length > 1 && level && (
        <Button
          title="a line of its own, which counts in no total"
          onClick={() => {
            change(withLine(report, level, inOrder(chosen)));
            done();
          }}
        >
          {chosen[0]?.label} less {chosen.length === 2 ? chosen[1]?.label : 'the others'}
        </Button>
      )}
      <Button onClick={done}>Cancel</Button>
      <FaultNote error={gather.error} />
    </div>
  );
}

/** The labels of lines, the first chosen one first, and of the one that stands last. */
const inOrder = (chosen: Row[]) => ({
  labels: chosen.map((row) => row.label),
  last: [...chosen].sort((a, b) => a.at - b.at).pop()?.label ?? null,
});

function freeName(taken: string[], wanted: string): string {
  let name = wanted;
  for (let n = 2; taken.includes(name); n += 1) name = `${wanted} ${n}`;
  return name;
}
