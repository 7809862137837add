import './sources.css';

import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from '@mui/material';
import { useState } from 'react';

import type { Connection, Fetching } from '../api/client';
import { Choose } from '../parts/Field';
import { EVERY } from './asked';

/** A query that feeds a source: over which connection, and how often it is asked by itself. */
export function QueryDialog({
  source,
  fetching,
  connections,
  look,
  save,
  close,
}: {
  /** The source's name; empty for one that begins with the query. */
  source: string;
  fetching: Fetching | null;
  connections: Connection[];
  look: (source: string, fetching: Fetching) => void;
  /** Keep it without asking, where only how often it is asked has changed. */
  save?: (fetching: Fetching) => void;
  close: () => void;
}) {
  const [name, setName] = useState(source);
  const [draft, setDraft] = useState<Fetching>(
    fetching ?? { connection: connections[0]?.name ?? '', query: '', every: null, at: '06:00' },
  );
  const same = fetching?.query === draft.query && fetching.connection === draft.connection;
  const timed = draft.every !== null && draft.every !== undefined && draft.every !== 'hour';
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle>{source ? `The query that feeds ${source}` : 'From a database'}</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2, pt: '8px !important' }}>
        {!source && (
          <TextField
            label="Name of the source"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        )}
        <Choose
          label="Database"
          value={draft.connection}
          options={connections.map((one) => [one.name, `${one.name} (${one.kind})`])}
          change={(connection) => setDraft({ ...draft, connection })}
        />
        <TextField
          label="Query"
          value={draft.query}
          multiline
          minRows={6}
          maxRows={16}
          placeholder="SELECT sold_on, shop, net FROM sales"
          slotProps={{
            htmlInput: { spellCheck: false, className: 'query-text' },
            inputLabel: { shrink: true },
          }}
          onChange={(event) => setDraft({ ...draft, query: event.target.value })}
        />
        <div className="query-when">
          <Choose
            label="Asked"
            value={draft.every ?? ''}
            options={EVERY}
            change={(every) => setDraft({ ...draft, every: (every || null) as Fetching['every'] })}
          />
          {timed && (
            <TextField
              label="At"
              type="time"
              value={draft.at}
              onChange={(event) => event.target.value && setDraft({ ...draft, at: event.target.value })}
            />
          )}
        </div>
        <p className="say">
          It reads and changes nothing in the database. What it gives joins the source as a file does, and can
          be undone.
        </p>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        {same && save ? (
          <Button variant="contained" onClick={() => save(draft)}>
            Save
          </Button>
        ) : (
          <Button
            variant="contained"
            disabled={!name.trim() || !draft.query.trim() || !draft.connection}
            onClick={() => look(name.trim(), draft)}
          >
            Look at what it gives
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
