import '../intake/intake.css';
import '../parts/note.css';
import './sources.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';

import { post, put, type MadeColumn, type MadeTried, type SourceView } from '../api/client';
import { FaultNote } from '../parts/Fault';
import { kindWords } from '../parts/words';
import { FormulaField } from './FormulaField';
import { LookupFields } from './LookupFields';

/** A made column, by formula or by look-up, tried on the records as it is written. */
export function MadeDialog({
  source,
  made,
  isNew,
  close,
}: {
  source: SourceView;
  made: MadeColumn;
  isNew: boolean;
  close: () => void;
}) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(made);
  const tried = useTried(source.id, draft);
  const others = source.made.map((m) => m.column).filter((m) => m.name !== made.name);
  const save = useMutation({
    mutationFn: (list: MadeColumn[]) => put(`/sources/${source.id}/made`, list),
    onSuccess: () => {
      void queries.invalidateQueries();
      close();
    },
  });
  const place = source.made.findIndex((m) => m.column.name === made.name);
  const list = isNew ? [...others, draft] : source.made.map((m, i) => (i === place ? draft : m.column));
  const known = [...source.columns.map((c) => c.name)].filter((n) => n !== made.name);
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>
        {isNew ? ('lookup' in draft ? 'Look up from another source' : 'Add a column') : made.name}
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
        <TextField
          label="Name of the column"
          value={draft.name}
          onChange={(e) => setDraft({ ...draft, name: e.target.value })}
        />
        {'lookup' in draft ? (
          <LookupFields source={source} made={draft} change={setDraft} />
        ) : (
          <FormulaField
            columns={known}
            value={draft.formula}
            change={(formula) => setDraft({ ...draft, formula })}
          />
        )}
        <div aria-busy={tried.isPlaceholderData}>
          <Tried tried={tried.data} />
        </div>
        <FaultNote error={save.error} />
      </DialogContent>
      <DialogActions>
        {!isNew && (
          <Button color="error" onClick={() => save.mutate(others)} sx={{ mr: 'auto' }}>
            Remove
          </Button>
        )}
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!draft.name.trim() || !tried.data || tried.data.problem !== ''}
          onClick={() => save.mutate(list)}
        >
          Keep the column
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function useTried(source: number, made: MadeColumn) {
  const asked = useDeferredValue(made);
  const ready =
    'lookup' in asked ? asked.lookup.take !== '' && asked.lookup.source !== '' : asked.formula.trim() !== '';
  return useQuery({
    queryKey: ['tried', source, JSON.stringify(asked)],
    queryFn: () => post(`/sources/${source}/made/try`, { ...asked, name: asked.name || 'new' }),
    enabled: ready,
    placeholderData: (before) => before,
    retry: false,
  });
}

function Tried({ tried }: { tried: MadeTried | undefined }) {
  if (!tried)
    return <p className="say">The first records are shown here as soon as the column can be worked out.</p>;
  if (tried.problem) return <FaultNote error={new Error(tried.problem)} />;
  const wanted = tried.headings.length - 1;
  return (
    <div>
      <table className="columns sample tried">
        <thead>
          <tr>
            {tried.headings.map((h, i) => (
              <th key={h}>
                {h}
                {i === wanted && <span className="made">{kindWords(tried.kind, 2)}</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {tried.rows.map((row, r) => (
            <tr key={r}>
              {row.map((cell, i) => (
                <td key={i}>{i === wanted ? <b>{cell || '–'}</b> : cell || '–'}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {tried.note && <div className="heed">{tried.note}</div>}
    </div>
  );
}
